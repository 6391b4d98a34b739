import type { AssetState } from './asset/asset.ts';
import { patchFbx } from './formats/fbx/patchFbx.ts';
import { isEmptyObjectPatch, NO_OBJECTS } from './formats/fbx/patchObjects.ts';
import { patchGltf } from './formats/gltf/patchGltf.ts';
import { patchMtl } from './formats/obj/patchMtl.ts';
import { librariesOf } from './formats/obj/readObj.ts';
import { emptyPatch, type ModelPatch, type Patched } from './formats/patch.ts';
import { patchUsd } from './formats/usd/patchUsd.ts';
import type { OpenAsset } from './inspect.ts';
import type { ObjectChanges } from './objectPatch.ts';
import { channelInWords } from './scene/channelTitles.ts';
import type { ChannelName } from './scene/material.ts';

/**
 * What edits changed, as far as a model's own format can say it: image paths, values, sides and alpha.
 * `pathOf` gives the path under which the model is to find an image of the parcel. Slots that were given
 * other images are listed as missed, since that changes the material's wiring.
 */
export function patchOfState(
  asset: Pick<OpenAsset, 'source'>,
  state: AssetState,
  pathOf: (resolved: string) => string,
): { patch: ModelPatch; missed: string[] } {
  const patch = emptyPatch();
  const missed: string[] = [];
  const before = new Map(asset.source.images.map((image) => [image.key, image]));
  for (const image of state.images) {
    const existing = before.get(image.key);
    if (
      !existing ||
      image.status === 'embedded' ||
      !image.resolved ||
      (image.resolved === existing.resolved && existing.status === 'found')
    )
      continue;
    patch.images.push({ written: image.written, path: pathOf(image.resolved) });
  }
  for (const material of state.materials) {
    const cached = asset.source.materials.find((other) => other.key === material.key);
    if (!cached) continue;
    for (const [name, channel] of Object.entries(material.channels)) {
      const was = cached.channels[name as ChannelName];
      if (JSON.stringify(was?.map ?? null) !== JSON.stringify(channel.map))
        missed.push(`${material.key}: another image or reading of ${channelInWords(name)}`);
      else if (JSON.stringify(was?.value) !== JSON.stringify(channel.value))
        patch.values.push({ material: material.key, channel: name as ChannelName, value: channel.value });
    }
    for (const name of Object.keys(cached.channels))
      if (!material.channels[name as ChannelName])
        missed.push(`${material.key}: ${channelInWords(name)} was emptied`);
    if (material.doubleSided !== cached.doubleSided)
      patch.sides.push({ material: material.key, doubleSided: material.doubleSided });
    if (material.colours !== cached.colours)
      missed.push(`${material.key}: whether it shows the colours of its parts`);
    if (material.alphaMode !== cached.alphaMode || material.alphaCutoff !== cached.alphaCutoff) {
      patch.alphas.push({ material: material.key, mode: material.alphaMode, cutoff: material.alphaCutoff });
    }
  }
  return { patch, missed };
}

/**
 * Applies a patch to a model in its own format, with what became of its parts where that is FBX: all of it,
 * or names alone where the file has no record for the rest. The model file is among the results, changed or
 * not.
 */
export async function patchModel(
  asset: Pick<OpenAsset, 'source' | 'read' | 'files'>,
  patch: ModelPatch,
  { patch: objects, missed: unsaid }: ObjectChanges = { patch: NO_OBJECTS, missed: [], losses: [] },
): Promise<Patched> {
  const { files } = asset;
  const { model, format } = asset.source;
  const bytes = await asset.read(model);
  if (format === 'fbx') {
    const { materials, parts } = objects;
    const said = unsaid.length > 0 ? { ...NO_OBJECTS, materials, parts } : objects;
    const { files: made, missed } = patchFbx(bytes, model, patch, said);
    return { files: made, missed: [...missed, ...unsaid] };
  }
  const left =
    unsaid.length > 0 || !isEmptyObjectPatch(objects)
      ? ['names, placement and materials of parts are changed in FBX files alone']
      : [];
  if (format === 'gltf') {
    const { files: made, missed } = patchGltf(bytes, model, patch);
    return { files: made, missed: [...missed, ...left] };
  }
  const { files: made, missed } =
    format === 'usd'
      ? await patchUsd(bytes, model, files, patch)
      : await patchMtl(await librariesOf(bytes, model, files), files, patch);
  return { files: new Map([[model, bytes], ...made]), missed: [...missed, ...left] };
}
