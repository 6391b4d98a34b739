import type { FileSource } from '../../parcel/fileSource.ts';
import { fileName, folderOf, stemOf } from '../../parcel/fileSource.ts';
import type { ChannelName } from '../../scene/material.ts';
import { asColour, asScalar, createKeyer, type ModelPatch, type Patched } from '../patch.ts';
import type { ComposedPrim } from './compose.ts';
import { AssetPath, createPrim, createProperty, type PrimSpec, shapeOfType, type UsdLayer, type UsdValue } from './layer.ts';
import { inputOfChannel, surfaceOf } from './readUsdMaterial.ts';
import { openStage } from './stage.ts';
import { propertyValue, textOf } from './values.ts';
import { writeUsda } from './writeUsda.ts';

/**
 * Changes to a USD scene as a layer over it: the original is taken in as a sublayer and never touched; image paths and
 * values are overriding opinions. The new layer is to lie beside the original.
 */
export async function patchUsd(
  bytes: Uint8Array,
  path: string,
  source: FileSource,
  patch: ModelPatch,
  outName = `${stemOf(path)}_mended.usda`,
): Promise<Patched> {
  const stage = await openStage(bytes, path, source, []);
  const layer: UsdLayer = { metadata: { subLayers: [`./${fileName(path)}`] }, prims: [] };
  for (const name of ['defaultPrim', 'upAxis', 'metersPerUnit', 'startTimeCode', 'endTimeCode', 'timeCodesPerSecond', 'framesPerSecond']) {
    if (stage.metadata[name] !== undefined) layer.metadata[name] = stage.metadata[name];
  }
  const missed: string[] = [];
  const paths = new Map(patch.images.map((image) => [image.written, image.path]));
  const keyOf = createKeyer();
  for (const prim of stage.byPath.values()) {
    for (const property of prim.properties.values()) {
      const value = propertyValue(property);
      const target = value instanceof AssetPath ? paths.get(value.path) : undefined;
      if (target !== undefined) override(layer, prim.path, property.name, property.typeName || 'asset', new AssetPath(target));
    }
    if (prim.typeName === 'Material' && prim.specifier !== 'class')
      patchMaterial(layer, prim, keyOf(textOf(prim.metadata.displayName) || prim.name), stage.byPath, patch, missed);
  }
  const folder = folderOf(path);
  return { files: new Map([[folder ? `${folder}/${outName}` : outName, writeUsda(layer)]]), missed };
}

function patchMaterial(layer: UsdLayer, prim: ComposedPrim, key: string, byPath: Map<string, ComposedPrim>, patch: ModelPatch, missed: string[]): void {
  const values = patch.values.filter((value) => value.material === key);
  const alpha = patch.alphas.find((one) => one.material === key);
  if (values.length === 0 && !alpha) return;
  const surface = surfaceOf(prim, byPath);
  if (!surface) {
    missed.push(`${key} has no surface that is understood`);
    return;
  }
  for (const { channel, value } of values) setInput(layer, surface, channel, value, missed, key);
  if (alpha) override(layer, surface.path, 'inputs:opacityThreshold', 'float', alpha.mode === 'mask' ? alpha.cutoff : 0);
}

function setInput(layer: UsdLayer, surface: ComposedPrim, channel: ChannelName, value: Parameters<typeof asColour>[0], missed: string[], key: string): void {
  const input = inputOfChannel(surface, channel);
  if (!input) {
    missed.push(`the surface of ${key} has no input for ${channel}`);
    return;
  }
  const known = surface.properties.get(`inputs:${input}`);
  if (known && known.targets.length > 0) {
    missed.push(`${channel} of ${key} is fed by a network; its value was left alone`);
    return;
  }
  const typeName = known?.typeName || (channel === 'baseColor' || channel.endsWith('Color') || channel === 'emission' ? 'color3f' : 'float');
  const wide = shapeOfType(typeName).width >= 3;
  override(layer, surface.path, `inputs:${input}`, typeName, wide ? Float64Array.from(asColour(value)) : asScalar(value));
}

function override(layer: UsdLayer, primPath: string, name: string, typeName: string, value: UsdValue): void {
  let list = layer.prims;
  let prim: PrimSpec | undefined;
  for (const part of primPath.split('/').filter(Boolean)) {
    prim = list.find((one) => one.name === part);
    if (!prim) {
      prim = createPrim(part, '', 'over');
      list.push(prim);
    }
    list = prim.children;
  }
  prim?.properties.set(name, createProperty(name, typeName, { value }));
}
