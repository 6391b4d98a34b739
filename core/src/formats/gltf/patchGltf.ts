import type { GLTF } from '@gltf-transform/core';
import { parseJson } from '../../parcel/json.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import type { AlphaMode } from '../../scene/material.ts';
import { colourValue, scalarValue } from '../../scene/material.ts';
import { createKeyer, type ModelPatch, type Patched } from '../patch.ts';

const GLB_HEADER = 12;
const CHUNK_HEADER = 8;

/**
 * Changes image URIs and material factors in the JSON of a glTF file and keeps everything else: buffers,
 * animation, extensions, extras and their order. Throws `gltf.broken` when the JSON cannot be read.
 */
export function patchGltf(bytes: Uint8Array, path: string, patch: ModelPatch): Patched {
  const binary = bytes[0] === 0x67 && bytes[1] === 0x6c && bytes[2] === 0x54 && bytes[3] === 0x46;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const start = binary ? GLB_HEADER + CHUNK_HEADER : 0;
  const end = binary ? start + view.getUint32(GLB_HEADER, true) : bytes.length;
  const text = new TextDecoder().decode(bytes.subarray(start, end));
  const json = parseJson(text, {
    file: path,
    code: 'gltf.broken',
    hint: 'Export or copy the file again.',
  }) as GLTF.IGLTF;
  const missed = patchJson(json, patch);
  const indent = /\n( +|\t)"/.exec(text)?.[1];
  const encoded = new TextEncoder().encode(
    JSON.stringify(json, null, indent) + (text.endsWith('\n') ? '\n' : ''),
  );
  if (!binary) return { files: new Map([[path, encoded]]), missed };
  const padded = Math.ceil(encoded.length / 4) * 4;
  const rest = bytes.subarray(end);
  const out = new Uint8Array(start + padded + rest.length);
  out.set(bytes.subarray(0, start));
  out.fill(0x20, start, start + padded);
  out.set(encoded, start);
  out.set(rest, start + padded);
  const head = new DataView(out.buffer);
  head.setUint32(8, out.length, true);
  head.setUint32(GLB_HEADER, padded, true);
  return { files: new Map([[path, out]]), missed };
}

function patchJson(json: GLTF.IGLTF, patch: ModelPatch): string[] {
  const missed: string[] = [];
  const paths = new Map(patch.images.map((image) => [image.written, image.path]));
  for (const image of json.images ?? []) {
    const target = image.uri && !image.uri.startsWith('data:') ? paths.get(decode(image.uri)) : undefined;
    if (target !== undefined) image.uri = encodeURI(target);
  }
  const keyOf = createKeyer();
  (json.materials ?? []).forEach((material, i) => {
    const key = keyOf(material.name || `material_${i + 1}`);
    for (const value of patch.values) if (value.material === key) setValue(json, material, value, missed);
    for (const side of patch.sides) if (side.material === key) material.doubleSided = side.doubleSided;
    for (const alpha of patch.alphas) {
      if (alpha.material !== key) continue;
      material.alphaMode = alphaModeOf(alpha);
      if (alpha.mode === 'mask') material.alphaCutoff = alpha.cutoff;
      else delete material.alphaCutoff;
    }
  });
  return missed;
}

function alphaModeOf(alpha: {
  material: string;
  mode: AlphaMode;
  cutoff: number;
}): GLTF.MaterialAlphaMode | undefined {
  if (alpha.mode === 'opaque') return 'OPAQUE';
  return alpha.mode === 'mask' ? 'MASK' : 'BLEND';
}

function setValue(
  json: GLTF.IGLTF,
  material: GLTF.IMaterial,
  { channel, value, material: key }: ModelPatch['values'][number],
  missed: string[],
): void {
  const pbr = () => {
    material.pbrMetallicRoughness ??= {};
    return material.pbrMetallicRoughness;
  };
  const extension = (name: string, field: string, number: number | number[]) => {
    material.extensions ??= {};
    const ownExtension = (material.extensions[name] ?? {}) as Record<string, unknown>;
    ownExtension[field] = number;
    (material.extensions as Record<string, unknown>)[name] = ownExtension;
    json.extensionsUsed = [...new Set([...(json.extensionsUsed ?? []), name])];
  };
  switch (channel) {
    case 'baseColor':
      pbr().baseColorFactor = [...colourValue(value), pbr().baseColorFactor?.[3] ?? 1];
      return;
    case 'opacity': {
      const [r, g, b] = pbr().baseColorFactor ?? [1, 1, 1, 1];
      pbr().baseColorFactor = [r, g, b, scalarValue(value)];
      return;
    }
    case 'metalness':
      pbr().metallicFactor = scalarValue(value);
      return;
    case 'roughness':
      pbr().roughnessFactor = scalarValue(value);
      return;
    case 'emission': {
      const colour = colourValue(value);
      const strength = Math.max(1, ...colour);
      material.emissiveFactor = colour.map((component) => component / strength);
      if (strength > 1) extension('KHR_materials_emissive_strength', 'emissiveStrength', strength);
      return;
    }
    case 'ior':
      return extension('KHR_materials_ior', 'ior', scalarValue(value));
    case 'transmission':
      return extension('KHR_materials_transmission', 'transmissionFactor', scalarValue(value));
    case 'coat':
      return extension('KHR_materials_clearcoat', 'clearcoatFactor', scalarValue(value));
    case 'coatRoughness':
      return extension('KHR_materials_clearcoat', 'clearcoatRoughnessFactor', scalarValue(value));
    case 'specular':
      return extension('KHR_materials_specular', 'specularFactor', scalarValue(value));
    case 'specularColor':
      return extension('KHR_materials_specular', 'specularColorFactor', colourValue(value));
    case 'sheenColor':
      return extension('KHR_materials_sheen', 'sheenColorFactor', colourValue(value));
    default:
      missed.push(`glTF has no factor for ${channelInWords(channel)} of ${key}`);
  }
}

function decode(uri: string): string {
  try {
    return decodeURIComponent(uri);
  } catch {
    return uri;
  }
}
