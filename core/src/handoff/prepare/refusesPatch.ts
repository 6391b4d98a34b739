import type { LoadedAsset } from '../../asset/asset.ts';
import type { Destination } from '../../destinations/profile.ts';
import { patchFbx } from '../../formats/fbx/patchFbx.ts';
import { isEmptyObjectPatch } from '../../formats/fbx/patchObjects.ts';
import { emptyPatch } from '../../formats/patch.ts';
import { JOINED } from '../../join/joinedFile.ts';
import { extensionOf } from '../../parcel/fileSource.ts';
import { objectPatchOf, patchOfState } from '../../patch.ts';
import { takesAll } from '../../scene/intake.ts';
import { preparationsOf } from './prepareState.ts';

/**
 * Why a source file cannot simply be changed for a destination, in words; null where it can: the format is
 * the same, nothing of the geometry is to change, and every edit can be said in the file itself.
 */
export async function refusesPatch(
  { source, state, read }: LoadedAsset,
  destination: Destination,
): Promise<string | null> {
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
  const objects = objectPatchOf(source, state);
  if (!objects) return 'parts were changed';
  if (Object.keys(state.numbers ?? {}).length > 0) return 'materials were numbered';
  if (Object.keys(state.bindings ?? {}).length > 0 || state.materials.length !== source.materials.length)
    return 'parts were given other materials';
  const { patch, missed } = patchOfState({ source }, state, (path) => path);
  if (missed.length > 0) return missed[0];
  if (patch.values.length > 0 || !isEmptyObjectPatch(objects)) {
    // Only trying tells whether the file has a word for each value, and whether parts come off it.
    const values = { ...emptyPatch(), values: patch.values };
    const tried = patchFbx(await read(source.model), source.model, values, objects);
    if (tried.missed.length > 0) return tried.missed[0];
  }
  const written = state.images
    .filter(({ resolved, status }) => resolved && status !== 'embedded')
    .map((image) => image.written);
  return new Set(written).size === written.length ? null : 'two images wrote the same path';
}
