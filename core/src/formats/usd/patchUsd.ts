import type { FileSource } from '../../parcel/fileSource.ts';
import { fileName, folderOf, stemOf } from '../../parcel/fileSource.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import type { ChannelName } from '../../scene/material.ts';
import { colourValue, scalarValue } from '../../scene/material.ts';
import { createKeyer, type ModelPatch, type Patched } from '../patch.ts';
import type { ComposedPrim } from './compose.ts';
import {
  AssetPath,
  createPrim,
  createProperty,
  type PrimSpec,
  shapeOfType,
  type UsdLayer,
  type UsdValue,
} from './layer.ts';
import { inputOfChannel, surfaceOf } from './readUsdMaterial.ts';
import { openStage } from './stage.ts';
import { propertyValue, textOf } from './values.ts';
import { writeUsda } from './writeUsda.ts';

/**
 * Changes to a USD scene as a layer over it: the original is taken in as a sublayer and never touched; image
 * paths and values are overriding opinions. The new layer is to lie beside the original.
 */
export async function patchUsd(
  bytes: Uint8Array,
  path: string,
  source: FileSource,
  patch: ModelPatch,
): Promise<Patched> {
  const stage = await openStage(bytes, path, source, { remarks: [] });
  const layer: UsdLayer = { metadata: { subLayers: [`./${fileName(path)}`] }, prims: [] };
  for (const name of [
    'defaultPrim',
    'upAxis',
    'metersPerUnit',
    'startTimeCode',
    'endTimeCode',
    'timeCodesPerSecond',
    'framesPerSecond',
  ]) {
    if (stage.metadata[name] !== undefined) layer.metadata[name] = stage.metadata[name];
  }
  const missed: string[] = [];
  const paths = new Map(patch.images.map((image) => [image.written, image.path]));
  const keyOf = createKeyer();
  for (const prim of stage.byPath.values()) {
    for (const property of prim.properties.values()) {
      const value = propertyValue(property);
      const target = value instanceof AssetPath ? paths.get(value.path) : undefined;
      if (target !== undefined)
        override(layer, prim.path, property.name, [property.typeName || 'asset', new AssetPath(target)]);
    }
    if (prim.typeName === 'Material' && prim.specifier !== 'class')
      patchMaterial(prim, keyOf(textOf(prim.metadata.displayName) || prim.name), patch, {
        layer,
        byPath: stage.byPath,
        missed,
      });
  }
  const folder = folderOf(path);
  const name = `${stemOf(path)}_mended.usda`;
  return { files: new Map([[folder ? `${folder}/${name}` : name, writeUsda(layer)]]), missed };
}

/** The layer that changes go to, the stage below it, and what could not be said. */
interface Patching {
  layer: UsdLayer;
  byPath: Map<string, ComposedPrim>;
  missed: string[];
}

function patchMaterial(prim: ComposedPrim, key: string, patch: ModelPatch, patching: Patching): void {
  const { layer, byPath, missed } = patching;
  const values = patch.values.filter((value) => value.material === key);
  const alpha = patch.alphas.find((alpha) => alpha.material === key);
  if (values.length === 0 && !alpha) return;
  const surface = surfaceOf(prim, byPath);
  if (!surface) {
    missed.push(`${key} has no surface that is understood`);
    return;
  }
  for (const { channel, value } of values) setInput(surface, key, [channel, value], patching);
  if (alpha)
    override(layer, surface.path, 'inputs:opacityThreshold', [
      'float',
      alpha.mode === 'mask' ? alpha.cutoff : 0,
    ]);
}

function setInput(
  surface: ComposedPrim,
  key: string,
  [channel, value]: [ChannelName, Parameters<typeof colourValue>[0]],
  { layer, missed }: Patching,
): void {
  const input = inputOfChannel(surface, channel);
  if (!input) {
    missed.push(`the surface of ${key} has no input for ${channelInWords(channel)}`);
    return;
  }
  const existing = surface.properties.get(`inputs:${input}`);
  if (existing && existing.targets.length > 0) {
    missed.push(`${channelInWords(channel)} of ${key} is fed by a network; its value was left alone`);
    return;
  }
  const typeName =
    existing?.typeName ||
    (channel === 'baseColor' || channel.endsWith('Color') || channel === 'emission' ? 'color3f' : 'float');
  const wide = shapeOfType(typeName).width >= 3;
  override(layer, surface.path, `inputs:${input}`, [
    typeName,
    wide ? Float64Array.from(colourValue(value)) : scalarValue(value),
  ]);
}

/** States a property anew, whose type and value are given. */
function override(
  layer: UsdLayer,
  primPath: string,
  name: string,
  [typeName, value]: [string, UsdValue],
): void {
  let list = layer.prims;
  let prim: PrimSpec | undefined;
  for (const part of primPath.split('/').filter(Boolean)) {
    prim = list.find((primSpec) => primSpec.name === part);
    if (!prim) {
      prim = createPrim(part, '', 'over');
      list.push(prim);
    }
    list = prim.children;
  }
  prim?.properties.set(name, createProperty(name, typeName, { value }));
}
