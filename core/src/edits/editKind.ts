import type { Draft } from 'immer';
import type { AssetState, Edit, EditKind, ParcelImage, SlotAddress, WorkflowChange } from '../asset/asset.ts';
import { resolution } from '../asset/resolution.ts';
import { groupTiles } from '../links/tiles.ts';
import { channelInWords } from '../scene/channelTitles.ts';
import { changeWorkflow } from '../scene/highlight.ts';
import { type Channel, type Material, unitValue } from '../scene/material.ts';
import { pickedKey } from '../scene/pickedImage.ts';

/** Edits of one kind. */
export type EditOf<K extends EditKind> = Extract<Edit, { kind: K }>;

/** One kind of edit: how it changes the state and how it reads in words. */
export interface EditDefinition<K extends EditKind> {
  /** Changes the draft in place. Addresses that no longer exist are handed to `skip` and passed over. */
  apply(
    draft: Draft<AssetState>,
    edit: EditOf<K>,
    images: readonly ParcelImage[],
    skip: (what: string) => void,
  ): void;
  describe(edit: EditOf<K>): string;
}

/** Runs `change` on each addressed slot's material. */
export function eachSlot(
  draft: Draft<AssetState>,
  slots: readonly SlotAddress[],
  skip: (what: string) => void,
  change: (material: Material, slot: SlotAddress) => void,
): void {
  for (const slot of slots) {
    const material = draft.materials.find((other) => other.key === slot.material);
    if (material) change(material as Material, slot);
    else skip(`material ${slot.material}`);
  }
}

/** Tells materials that their channels are meant for another shading model. */
export function changeWorkflows(
  draft: Draft<AssetState>,
  changes: readonly WorkflowChange[],
  skip: (what: string) => void,
): void {
  for (const { material: key, workflow, exponent } of changes) {
    const material = draft.materials.find((other) => other.key === key);
    if (!material) {
      skip(`material ${key}`);
      continue;
    }
    changeWorkflow(material, workflow);
    material.exponent = exponent;
  }
}

/** The slot's channel, made empty first where the material has none. */
export function ensureChannel(material: Material, { channel }: SlotAddress, edit: Edit): Channel {
  material.channels[channel] ??= { value: unitValue(channel), map: null, source: edit.origin };
  return material.channels[channel];
}

/**
 * The key of a parcel image in the state, which is made to know it first; null where the parcel has no such
 * file.
 */
export function pickImage(
  draft: Draft<AssetState>,
  path: string,
  images: readonly ParcelImage[],
): string | null {
  const existing = draft.images.find((entry) => entry.resolved === path);
  if (existing) return existing.key;
  if (!images.some((image) => image.path === path)) return null;
  const tileSets = () => groupTiles(images.map((file) => file.path));
  draft.images.push({
    key: pickedKey(path),
    written: path,
    relative: null,
    ...resolution(path, 'picked from the parcel', { tileSets }),
  });
  return pickedKey(path);
}

/** `Hull, roughness` or `3 slots`. */
export function slotsInWords(slots: readonly SlotAddress[]): string {
  return slots.length === 1
    ? `${slots[0].material}, ${channelInWords(slots[0].channel)}`
    : `${slots.length} slots`;
}
