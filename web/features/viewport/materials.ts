import type { AssetState, ParcelImage } from '@kinkajou/core/asset/asset';
import { type MetalRough, toMetalRough } from '@kinkajou/core/materials/metalRough';
import { conversionOf } from '@kinkajou/core/colour/spaces';
import type { ColourSpace, MapUse, Material as NeutralMaterial } from '@kinkajou/core/scene/material';
import {
  DoubleSide,
  FrontSide,
  type IUniform,
  type Material,
  Matrix3,
  MeshBasicMaterial,
  MeshPhysicalMaterial,
  ShaderChunk,
  SRGBColorSpace,
  Vector2,
  Vector3,
  Vector4,
} from 'three';
import type { ViewMode } from '@/ui/choices';
import { decodesInShader, type TextureStore } from './textures.ts';
import type { TilePicture } from './tileAtlas.ts';

export interface MaterialContext {
  state: AssetState;
  images: ReadonlyMap<string, ParcelImage>;
  textures: TextureStore;
  mode: ViewMode;
  wireframe: boolean;
}

/** How a shader picks a number out of a texel: (invert ? 1 - x : x) * gain + offset, x = dot(texel, mask). */
const READ = `
vec3 kjAdjust(vec3 x, vec3 how) { return mix(x, 1.0 - x, how.x) * how.y + how.z; }
vec3 kjPower(vec3 x, float e) { return sign(x) * pow(abs(x), vec3(e)); }
vec3 kjCurve(vec3 x, float gamma) {
  if (gamma == 1.0) return x;
  if (gamma > 0.0) return kjPower(x, gamma);
  vec3 a = abs(x);
  return sign(x) * mix(a / 12.92, pow((a + 0.055) / 1.055, vec3(2.4)), step(vec3(0.04045), a));
}
vec3 kjColour(vec4 texel, vec4 mask, vec3 how, vec2 decode, mat3 primaries) {
  vec3 stored = kjAdjust(mask == vec4(0.0) ? texel.rgb : vec3(dot(texel, mask)), how);
  if (decode.x == 0.0) return stored;
  return primaries * kjCurve(kjPower(stored, decode.x), decode.y);
}
float kjScalar(vec4 texel, vec4 mask, vec3 how) { return kjAdjust(vec3(dot(texel, mask)), how).x; }
`;

/** Texel reads of three's own shader chunks and what stands in their place, by the channel that they serve. */
const READS: Record<string, { chunk: keyof typeof ShaderChunk; from: string; to: string }> = {
  baseColor: {
    chunk: 'map_fragment',
    from: 'diffuseColor *= sampledDiffuseColor;',
    to: 'diffuseColor.rgb *= kjColour(sampledDiffuseColor, MASK, HOW, DECODE, PRIMARIES);',
  },
  roughness: { chunk: 'roughnessmap_fragment', from: 'texelRoughness.g', to: 'kjScalar(texelRoughness, MASK, HOW)' },
  metalness: { chunk: 'metalnessmap_fragment', from: 'texelMetalness.b', to: 'kjScalar(texelMetalness, MASK, HOW)' },
  occlusion: { chunk: 'aomap_fragment', from: 'texture2D( aoMap, vAoMapUv ).r', to: 'kjScalar(texture2D( aoMap, vAoMapUv ), MASK, HOW)' },
  opacity: { chunk: 'alphamap_fragment', from: 'texture2D( alphaMap, vAlphaMapUv ).g', to: 'kjScalar(texture2D( alphaMap, vAlphaMapUv ), MASK, HOW)' },
  emission: {
    chunk: 'emissivemap_fragment',
    from: 'totalEmissiveRadiance *= emissiveColor.rgb;',
    to: 'totalEmissiveRadiance *= kjColour(emissiveColor, MASK, HOW, DECODE, PRIMARIES);',
  },
};

const MASKS: Record<MapUse['component'], [number, number, number, number]> = {
  rgb: [0, 0, 0, 0],
  r: [1, 0, 0, 0],
  g: [0, 1, 0, 0],
  b: [0, 0, 1, 0],
  a: [0, 0, 0, 1],
  luminance: [0.2126, 0.7152, 0.0722, 0],
};

/** Makes the viewport's material for one of the asset's. */
export function createViewMaterial(neutral: NeutralMaterial, context: MaterialContext): Material {
  const shading = toMetalRough(neutral);
  return context.mode === 'lit' ? litMaterial(shading, context) : channelMaterial(shading, context);
}

/** All that decides how a material looks, as text: equal looks may share one view material. */
export function lookOf(neutral: NeutralMaterial, context: MaterialContext): string {
  const files = Object.values(neutral.channels).map((channel) => (channel.map ? (imageOf(channel.map, context)?.sha256 ?? 'missing') : ''));
  const channels = Object.entries(neutral.channels).map(([name, { value, map }]) => [name, value, map]);
  const { workflow, alphaMode, alphaCutoff, doubleSided, exponent } = neutral;
  return JSON.stringify([channels, files, workflow, alphaMode, alphaCutoff, doubleSided, exponent, context.mode, context.wireframe]);
}

function litMaterial(shading: MetalRough, context: MaterialContext): Material {
  const { textures } = context;
  const material = new MeshPhysicalMaterial({
    metalness: shading.metalness.value,
    roughness: shading.roughness.value,
    ior: shading.ior,
    clearcoat: shading.coat.value,
    clearcoatRoughness: shading.coatRoughness.value,
    transmission: shading.transmission.value,
    side: shading.doubleSided ? DoubleSide : FrontSide,
    wireframe: context.wireframe,
  });
  material.color.setRGB(...shading.baseColor.value);
  material.emissive.setRGB(...shading.emission.value);
  const reads: Reads = {};
  const wire = (channel: string, use: MapUse | null, set: (texture: ReturnType<TextureStore['get']>) => void) => {
    const image = use && imageOf(use, context);
    if (!use || !image) return;
    set(textures.get(use, image, false, tilesOf(use, context)));
    reads[channel] = { ...use, decode: decodesInShader(use, image) };
  };
  wire('baseColor', shading.baseColor.map, (texture) => (material.map = texture));
  wire('roughness', shading.roughness.map, (texture) => (material.roughnessMap = texture));
  wire('metalness', shading.metalness.map, (texture) => (material.metalnessMap = texture));
  wire('occlusion', shading.occlusion, (texture) => (material.aoMap = texture));
  wire('emission', shading.emission.map, (texture) => (material.emissiveMap = texture));
  wire('normal', shading.normal, (texture) => (material.normalMap = texture));
  if (shading.bump && !material.normalMap) wire('bump', shading.bump.map, (texture) => (material.bumpMap = texture));
  // Without tangents three derives them from UVs, whose v grows downwards here: Y+ then needs the turned sign.
  material.normalScale.set(1, shading.normal?.normalY === 'Y-' ? 1 : -1);
  if (shading.alphaMode !== 'opaque') {
    wire('opacity', shading.opacity.map, (texture) => (material.alphaMap = texture));
    material.opacity = shading.opacity.value;
    if (shading.alphaMode === 'mask') material.alphaTest = shading.alphaCutoff;
    else Object.assign(material, { transparent: true, depthWrite: false });
  }
  if (isMissing(shading.baseColor.map, context)) {
    material.map = textures.missing();
    reads.baseColor = { ...(shading.baseColor.map as MapUse), component: 'rgb', invert: false, gain: 1, offset: 0, decode: false };
    material.metalness = 0;
    material.metalnessMap = null;
  }
  patchReads(material, reads);
  return material;
}

/** One channel alone, unlit: the numbers as they are stored, or as light for colours. */
function channelMaterial(shading: MetalRough, context: MaterialContext): Material {
  const { mode, textures } = context;
  const { value, use } = channelInput(shading, mode);
  const material = new MeshBasicMaterial({ toneMapped: false, side: shading.doubleSided ? DoubleSide : FrontSide, wireframe: context.wireframe });
  const image = use && imageOf(use, context);
  if (use && !image) {
    material.map = textures.missing();
    return material;
  }
  const colour = mode === 'baseColor' || mode === 'emission';
  if (colour) material.color.setRGB(...clampColour(value));
  else material.color.setRGB(...clampColour(value), SRGBColorSpace);
  if (!use || !image) return material;
  material.map = textures.get(use, image, !colour, tilesOf(use, context));
  if (!colour) material.color.setRGB(...clampColour(value));
  patchReads(
    material,
    { baseColor: mode === 'normal' ? { ...use, component: 'rgb', decode: false } : { ...use, decode: colour && decodesInShader(use, image) } },
    !colour,
  );
  return material;
}

function channelInput(shading: MetalRough, mode: ViewMode): { value: [number, number, number]; use: MapUse | null } {
  const grey = (x: number): [number, number, number] => [x, x, x];
  switch (mode) {
    case 'baseColor':
    case 'emission':
      return { value: shading[mode].value, use: shading[mode].map };
    case 'normal':
      return { value: shading.normal ? [1, 1, 1] : [0.5, 0.5, 1], use: shading.normal };
    case 'occlusion':
      return { value: grey(1), use: shading.occlusion };
    case 'roughness':
    case 'metalness':
    case 'opacity':
      return { value: grey(shading[mode].value), use: shading[mode].map };
    default:
      return { value: grey(1), use: null };
  }
}

function clampColour(value: readonly number[]): [number, number, number] {
  return value.map((part) => Math.min(1, Math.max(0, part))) as [number, number, number];
}

/** How each channel reads its image; `decode` where the shader itself turns stored numbers into light. */
type Reads = Record<string, MapUse & { decode: boolean }>;

/** The curve of a space as the shader knows it: an exponent, or 0 for the sRGB curve. */
function gammaOf(space: ColourSpace): number {
  if (space === 'g18_rec709_scene') return 1.8;
  if (space === 'g22_adobergb_scene') return 563 / 256;
  if (space.startsWith('g22_')) return 2.2;
  return space.startsWith('srgb_') ? 0 : 1;
}

/** Linear numbers of a space to linear Rec.709. */
function primariesOf(space: ColourSpace): Matrix3 {
  const { matrix } = conversionOf(space, 'lin_rec709_scene');
  return matrix ? new Matrix3().set(...matrix) : new Matrix3();
}

/** Rewrites texel reads so that each channel takes its own component of whatever image it was given. */
function patchReads(material: Material, reads: Reads, rawOutput = false): void {
  const channels = Object.keys(reads).filter((channel) => READS[channel]);
  const uniforms: Record<string, IUniform> = {};
  for (const channel of channels) {
    const { component, invert, gain, offset, decode, space, exponent = 1 } = reads[channel];
    const scalarOfRgb = component === 'rgb' && !['baseColor', 'emission'].includes(channel);
    uniforms[`kj_${channel}_mask`] = { value: new Vector4(...MASKS[scalarOfRgb ? 'r' : component]) };
    uniforms[`kj_${channel}_how`] = { value: new Vector3(invert ? 1 : 0, gain, offset) };
    uniforms[`kj_${channel}_decode`] = { value: decode ? new Vector2(exponent, gammaOf(space)) : new Vector2(0, 1) };
    uniforms[`kj_${channel}_primaries`] = { value: decode ? primariesOf(space) : new Matrix3() };
  }
  material.onBeforeCompile = (shader) => {
    Object.assign(shader.uniforms, uniforms);
    const declared = channels
      .map(
        (channel) =>
          `uniform vec4 kj_${channel}_mask; uniform vec3 kj_${channel}_how; uniform vec2 kj_${channel}_decode; uniform mat3 kj_${channel}_primaries;`,
      )
      .join('\n');
    let source = shader.fragmentShader.replace('#include <common>', `#include <common>\n${declared}\n${READ}`);
    for (const channel of channels) {
      const { chunk, from, to } = READS[channel];
      const text = ShaderChunk[chunk].replace(
        from,
        to.replace(/MASK|HOW|DECODE|PRIMARIES/g, (word) => `kj_${channel}_${word.toLowerCase()}`),
      );
      source = source.replace(`#include <${chunk}>`, text);
    }
    if (rawOutput) source = source.replace('#include <colorspace_fragment>', '');
    shader.fragmentShader = source;
  };
  material.customProgramCacheKey = () => `${channels.join()}${rawOutput ? 'raw' : ''}`;
}

function imageOf(use: MapUse, { state, images }: MaterialContext): ParcelImage | null {
  const path = state.images.find((image) => image.key === use.image)?.resolved;
  const image = path ? images.get(path) : undefined;
  return image?.info ? image : null;
}

/** The tiles of a map that lies in several, with their contents. */
function tilesOf(use: MapUse, { state, images }: MaterialContext): TilePicture[] {
  const entry = state.images.find((image) => image.key === use.image);
  return (entry?.tiles ?? []).flatMap(({ number, path }) => {
    const image = images.get(path);
    return image?.info ? [{ number, sha256: image.sha256 }] : [];
  });
}

function isMissing(use: MapUse | null, context: MaterialContext): boolean {
  return use !== null && imageOf(use, context) === null;
}
