import type { AssetSource, AssetState } from './asset/asset.ts';
import { patchFbx } from './formats/fbx/patchFbx.ts';
import type { ObjectPatch } from './formats/fbx/patchObjects.ts';
import { patchGltf } from './formats/gltf/patchGltf.ts';
import { patchMtl } from './formats/obj/patchMtl.ts';
import { librariesOf } from './formats/obj/readObj.ts';
import { emptyPatch, type ModelPatch, type Patched } from './formats/patch.ts';
import { patchUsd } from './formats/usd/patchUsd.ts';
import type { OpenAsset } from './inspect.ts';
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
    if (material.alphaMode !== cached.alphaMode || material.alphaCutoff !== cached.alphaCutoff) {
      patch.alphas.push({ material: material.key, mode: material.alphaMode, cutoff: material.alphaCutoff });
    }
  }
  return { patch, missed };
}

/**
 * Names and dropped parts, as far as edits say no more of parts than that; null where they do. Keys of parts
 * stay, so that the last name of each counts.
 */
export function objectPatchOf(source: Pick<AssetSource, 'materials'>, state: AssetState): ObjectPatch | null {
  const before = new Map(source.materials.map(({ key, name }) => [key, name]));
  const materials = new Map(
    state.materials.filter(({ key, name }) => before.get(key) !== name).map(({ key, name }) => [key, name]),
  );
  const parts = new Map<string, string>();
  const drops = new Set<string>();
  for (const change of state.parts ?? []) {
    if (change.do === 'rename') for (const { part, name } of change.names) parts.set(part, name);
    else if (change.do === 'drop') for (const part of change.parts) drops.add(part);
    else if (change.do === 'restore') for (const part of change.parts) drops.delete(part);
    else return null;
  }
  return { materials, parts, drops: [...drops] };
}

/** Applies a patch to a model in its own format. The model file is among the results, changed or not. */
export async function patchModel(
  asset: Pick<OpenAsset, 'source' | 'read' | 'files'>,
  patch: ModelPatch,
): Promise<Patched> {
  const { files } = asset;
  const { model, format } = asset.source;
  const bytes = await asset.read(model);
  switch (format) {
    case 'fbx':
      return patchFbx(bytes, model, patch);
    case 'gltf':
      return patchGltf(bytes, model, patch);
    case 'usd': {
      const { files: made, missed } = await patchUsd(bytes, model, files, patch);
      return { files: new Map([[model, bytes], ...made]), missed };
    }
    default: {
      const { files: made, missed } = await patchMtl(await librariesOf(bytes, model, files), files, patch);
      return { files: new Map([[model, bytes], ...made]), missed };
    }
  }
}
