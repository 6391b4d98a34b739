import { produce } from 'immer';
import {
  type AssetSource,
  type AssetState,
  type Edit,
  type EditKind,
  initialState,
  type ParcelImage,
} from '../asset/asset.ts';
import { missingParts } from '../asset/parts.ts';
import { tagUnstated } from '../asset/unstatedTags.ts';
import { addMaterials } from './addMaterials.ts';
import { adjustSlots } from './adjustSlots.ts';
import { assignSlots } from './assignSlots.ts';
import { bindNodes } from './bindNodes.ts';
import { clearSlots } from './clearSlots.ts';
import { dropMaterials } from './dropMaterials.ts';
import type { EditDefinition } from './editKind.ts';
import { editParts } from './editParts.ts';
import { linkImages } from './linkImages.ts';
import { mergeMaterials } from './mergeMaterials.ts';
import { numberMaterials } from './numberMaterials.ts';
import { pasteSlots } from './pasteSlots.ts';
import { renameMaterials } from './renameMaterials.ts';
import { replaceMaterials } from './replaceMaterials.ts';
import { setAlpha } from './setAlpha.ts';
import { setIntake } from './setIntake.ts';
import { setValues } from './setValues.ts';
import { unlinkImages } from './unlinkImages.ts';
import { unmapSlots } from './unmapSlots.ts';

/** Every kind of edit. A new kind is one file, one line here and one in `Edit`. */
const KINDS: { [K in EditKind]: EditDefinition<K> } = {
  linkImages,
  unlinkImages,
  assignSlots,
  adjustSlots,
  clearSlots,
  unmapSlots,
  pasteSlots,
  addMaterials,
  bindNodes,
  editParts,
  mergeMaterials,
  dropMaterials,
  renameMaterials,
  numberMaterials,
  setValues,
  setAlpha,
  setIntake,
  replaceMaterials,
};

/** The state that a log comes to, and what of it found no place. */
export interface Replayed {
  state: AssetState;
  /** Parts of edits whose address no longer exists, in words. */
  skipped: { edit: number; what: string }[];
}

/** The state of an asset: its source with the edits applied in order. The source is not changed. */
export function replay(
  source: AssetSource,
  edits: readonly Edit[],
  images: readonly ParcelImage[],
): Replayed {
  const skipped: Replayed['skipped'] = [];
  const state = edits.reduce(
    (before, edit, index) =>
      produce(before, (draft) => {
        // What the callback returned would stand for the whole state.
        definitionOf(edit).apply(draft, edit, images, (what) => {
          skipped.push({ edit: index, what });
        });
      }),
    initialState(source),
  );
  skipped.push(...missingParts(source, edits));
  // An image that an edit links brings its own colours along.
  const materials = tagUnstated(state.materials, state.images, images);
  return {
    state: materials.every((material, i) => material === state.materials[i])
      ? state
      : { ...state, materials },
    skipped,
  };
}

/** An edit in words, for the log, the status line and the receipt. */
export function describeEdit(edit: Edit): string {
  return definitionOf(edit).describe(edit);
}

function definitionOf(edit: Edit): EditDefinition<EditKind> {
  return KINDS[edit.kind] as EditDefinition<EditKind>;
}
