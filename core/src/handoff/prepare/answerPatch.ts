import type { LoadedAsset } from '../../asset/asset.ts';
import type { Destination } from '../../destinations/profile.ts';
import { patchFbx } from '../../formats/fbx/patchFbx.ts';
import { isEmptyObjectPatch, NO_OBJECTS } from '../../formats/fbx/patchObjects.ts';
import { readFbx } from '../../formats/fbx/readFbx.ts';
import { emptyPatch } from '../../formats/patch.ts';
import { JOINED } from '../../join/joinedFile.ts';
import { type ObjectChanges, objectChanges } from '../../objectPatch.ts';
import { extensionOf } from '../../parcel/fileSource.ts';
import { patchOfState } from '../../patch.ts';
import { takesAll } from '../../scene/intake.ts';
import type { Loss } from '../../scene/loss.ts';
import { preparationsOf } from './prepareState.ts';

/** What is told of a source file that is changed for a destination, or why it cannot be, in words. */
export type PatchAnswer = { refusal: string } | { refusal: null; losses: Loss[] };

/**
 * Whether a source file can simply be changed for a destination: the format is the same, nothing of the
 * geometry is to change, and every edit can be said in the file itself.
 */
export async function answerPatch(asset: LoadedAsset, destination: Destination): Promise<PatchAnswer> {
  const refusal = refusalOf(asset, destination);
  if (refusal !== null) return { refusal };
  const { source, state, read } = asset;
  const { patch } = patchOfState({ source }, state, (path) => path);
  const objects = await changesOfObjects({ source, state, read });
  if (objects.missed.length > 0) return { refusal: objects.missed[0] };
  if (patch.values.length > 0 || !isEmptyObjectPatch(objects.patch)) {
    // Only trying tells whether the file has a word for each value, and whether parts come off it.
    const values = { ...emptyPatch(), values: patch.values };
    const tried = patchFbx(await read(source.model), source.model, values, objects.patch);
    if (tried.missed.length > 0) return { refusal: tried.missed[0] };
  }
  const written = state.images
    .filter(({ resolved, status }) => resolved && status !== 'embedded')
    .map((image) => image.written);
  return new Set(written).size === written.length
    ? { refusal: null, losses: objects.losses }
    : { refusal: 'two images wrote the same path' };
}

/** What speaks against it before the file itself is looked at. */
function refusalOf({ source, state }: LoadedAsset, destination: Destination): string | null {
  const { format, size, parts, split, collision, embed } = destination;
  if (extensionOf(source.model) === JOINED) return 'it is several models as one';
  if (source.format !== 'fbx' || format !== 'fbx') return `the source is ${source.format.toUpperCase()}`;
  if (!takesAll(state.intake)) return 'not everything is taken as it is';
  if (size > 0 || parts !== 'kept' || split !== 'one' || collision.shape !== 'none' || embed)
    return `${destination.title} wants other geometry`;
  if (!destination.tiles && state.images.some(({ tiles = [] }) => tiles.length > 1))
    return `${destination.title} has no tiles`;
  const [converted] = preparationsOf(state, destination);
  if (converted)
    return `${converted.materials.slice(0, 3).join(', ')} must be brought to the shading model of ${destination.title}`;
  if (destination.turn) return 'a turn goes along';
  if (destination.stage) return 'camera, lamps or environment go along';
  if (Object.keys(state.numbers ?? {}).length > 0) return 'materials were numbered';
  if (state.materials.length !== source.materials.length) return 'materials were added or made one';
  return patchOfState({ source }, state, (path) => path).missed[0] ?? null;
}

/** What edits did to materials and parts; the model is read only where they did something. */
async function changesOfObjects({
  source,
  state,
  read,
}: Pick<LoadedAsset, 'source' | 'state' | 'read'>): Promise<ObjectChanges> {
  const names = new Map(source.materials.map(({ key, name }) => [key, name]));
  const untouched =
    !state.parts?.length &&
    Object.keys(state.bindings ?? {}).length === 0 &&
    state.materials.every(({ key, name }) => names.get(key) === name);
  if (untouched) return { patch: NO_OBJECTS, missed: [], losses: [] };
  return objectChanges(readFbx(await read(source.model), source.model), state);
}
