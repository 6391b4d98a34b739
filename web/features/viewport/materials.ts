import type { AssetState, ParcelImage } from '@kinkajou/core/asset/asset';
import { isColourSpace } from '@kinkajou/core/colour/spaces';
import { toMetalRough } from '@kinkajou/core/materials/metalRough';
import {
  CHANNELS,
  type ChannelName,
  COLOUR_CHANNELS,
  type MapUse,
  type Material as NeutralMaterial,
  neutralValue,
  type Rgb,
  showsColours,
} from '@kinkajou/core/scene/material';
import {
  DoubleSide,
  FrontSide,
  type Material,
  MeshBasicMaterial,
  MeshDepthMaterial,
  MeshPhysicalMaterial,
  RGBADepthPacking,
  SRGBColorSpace,
  type Texture,
} from 'three';
import type { ViewMode } from '@/ui/choices';
import { densityMaterial, facingMaterial, numberMaterial, uvGridMaterial } from './diagnostics.ts';
import { patchReads, type Reads } from './shaderReads.ts';
import { decodesInShader, type TextureStore } from './textures.ts';
import type { TilePicture } from './tileAtlas.ts';

export interface MaterialContext {
  state: AssetState;
  images: ReadonlyMap<string, ParcelImage>;
  textures: TextureStore;
  mode: ViewMode;
  /** Place of the UV set that diagnostics show. */
  uvSet: number;
  wireframe: boolean;
  displaced: boolean;
  metresPerUnit: number;
  /** Texels per metre that count as the middle. */
  density: number;
  /** Normals are shown as if all pointed Y+, to be compared; else as they are stored. */
  alike?: boolean;
  /** The part's points have colours. */
  coloured: boolean;
}

/** A material of the view, with the one that casts its shadow where that is cut out or displaced. */
export interface ViewMaterial {
  shown: Material;
  depth: Material | null;
}

/** Makes the viewport's material for one of the asset's. */
export function createViewMaterial(neutral: NeutralMaterial, context: MaterialContext): ViewMaterial {
  const { mode, wireframe } = context;
  if (mode === 'lit') return litMaterial(neutral, context);
  const shown = (() => {
    switch (mode) {
      case 'uv':
        return uvGridMaterial(context.uvSet, wireframe);
      case 'facing':
        return facingMaterial(wireframe);
      case 'materials':
        return numberMaterial(
          context.state.materials.findIndex(({ key }) => key === neutral.key),
          wireframe,
        );
      case 'density':
        return densityMaterial(context.uvSet, mapSize(neutral, context), context.density, wireframe);
      default:
        return channelMaterial(neutral, mode, context);
    }
  })();
  return { shown, depth: null };
}

/** All that decides how a material looks, as text: equal looks may share one view material. */
export function lookOf(neutral: NeutralMaterial, context: MaterialContext): string {
  const files = Object.values(neutral.channels).map((channel) =>
    channel.map ? (imageOf(channel.map, context)?.sha256 ?? 'missing') : '',
  );
  const channels = Object.entries(neutral.channels).map(([name, { value, map }]) => [name, value, map]);
  const { workflow, alphaMode, alphaCutoff, doubleSided, exponent, thickness } = neutral;
  const { mode, wireframe, uvSet, displaced, density, alike } = context;
  const own = mode === 'materials' ? neutral.key : '';
  return JSON.stringify([
    channels,
    files,
    workflow,
    alphaMode,
    alphaCutoff,
    doubleSided,
    exponent,
    thickness,
    mode,
    wireframe,
    uvSet,
    displaced,
    density,
    own,
    alike,
    paints(neutral, context),
  ]);
}

/** Whether colours of points are seen. */
function paints(neutral: NeutralMaterial, { coloured }: MaterialContext): boolean {
  return coloured && showsColours(neutral);
}

/** Whether a material moves the surface in the view. */
export function isDisplaced({ channels }: NeutralMaterial, context: MaterialContext): boolean {
  const map = channels.height?.map;
  return Boolean(context.displaced && context.mode === 'lit' && map && imageOf(map, context));
}

function litMaterial(neutral: NeutralMaterial, context: MaterialContext): ViewMaterial {
  const shading = toMetalRough(neutral);
  const { textures, metresPerUnit } = context;
  const specGloss = neutral.workflow === 'specGloss' && neutral.channels.specularColor !== undefined;
  const material = new MeshPhysicalMaterial({
    metalness: specGloss ? 0 : shading.metalness.value,
    roughness: shading.roughness.value,
    // In spec/gloss the specular colour is the reflectance itself: an index without end reflects all of it.
    ior: specGloss ? 1e6 : shading.ior,
    specularIntensity: shading.specular.value,
    clearcoat: shading.coat.value,
    clearcoatRoughness: shading.coatRoughness.value,
    transmission: shading.transmission.value,
    thickness: shading.thickness * metresPerUnit,
    side: shading.doubleSided ? DoubleSide : FrontSide,
    wireframe: context.wireframe,
    vertexColors: paints(neutral, context),
  });
  const base = specGloss
    ? colourOf(neutral, 'baseColor')
    : { value: shading.baseColor.value, map: shading.baseColor.map };
  material.color.setRGB(...base.value);
  material.emissive.setRGB(...shading.emission.value);
  if (shading.sheenColor.value.some((component) => component > 0)) {
    Object.assign(material, { sheen: 1, sheenRoughness: shading.sheenRoughness });
    material.sheenColor.setRGB(...shading.sheenColor.value);
  }
  const reads: Reads = {};
  const wire = (channel: string, use: MapUse | null, set: (texture: Texture) => void) => {
    const image = use && imageOf(use, context);
    if (!use || !image) return;
    set(textures.get(use, image, { raw: false, channel, tiles: tilesOf(use, context) }));
    reads[channel] = { ...use, decode: decodesInShader(use, image) };
  };
  if (specGloss) {
    const specular = colourOf(neutral, 'specularColor');
    material.specularColor.setRGB(...specular.value);
    wire('specularColor', specular.map, (texture) => (material.specularColorMap = texture));
  } else {
    material.specularColor.setRGB(...shading.specularColor.value);
    wire('specularColor', shading.specularColor.map, (texture) => (material.specularColorMap = texture));
    wire('metalness', shading.metalness.map, (texture) => (material.metalnessMap = texture));
    wire('specular', shading.specular.map, (texture) => (material.specularIntensityMap = texture));
  }
  wire('baseColor', base.map, (texture) => (material.map = texture));
  wire('roughness', shading.roughness.map, (texture) => (material.roughnessMap = texture));
  wire('occlusion', shading.occlusion, (texture) => (material.aoMap = texture));
  wire('emission', shading.emission.map, (texture) => (material.emissiveMap = texture));
  wire('normal', shading.normal, (texture) => (material.normalMap = texture));
  wire('sheenColor', shading.sheenColor.map, (texture) => (material.sheenColorMap = texture));
  wire('coat', shading.coat.map, (texture) => (material.clearcoatMap = texture));
  wire('coatRoughness', shading.coatRoughness.map, (texture) => (material.clearcoatRoughnessMap = texture));
  wire('transmission', shading.transmission.map, (texture) => (material.transmissionMap = texture));
  if (shading.bump && !material.normalMap) {
    wire('bump', shading.bump.map, (texture) => (material.bumpMap = texture));
    material.bumpScale = shading.bump.value;
  }
  // The second tangent goes the way in which v grows, which is down: Y+ then needs the turned sign.
  const { strength = 1, normalY } = shading.normal ?? {};
  material.normalScale.set(strength, normalY === 'Y-' ? strength : -strength);
  const depth = new MeshDepthMaterial({ depthPacking: RGBADepthPacking });
  const depthReads: Reads = {};
  const casts = { cut: false, moved: false };
  if (shading.height && context.displaced) {
    wire('height', shading.height.map, (texture) => {
      const scale = {
        displacementMap: texture,
        displacementScale: (shading.height?.value ?? 0) * metresPerUnit,
      };
      Object.assign(material, scale);
      Object.assign(depth, scale);
      casts.moved = true;
    });
    if (reads.height) depthReads.height = reads.height;
  }
  if (shading.alphaMode !== 'opaque') {
    wire('opacity', shading.opacity.map, (texture) => (material.alphaMap = texture));
    material.opacity = shading.opacity.value;
    if (shading.alphaMode === 'mask') {
      material.alphaTest = shading.alphaCutoff;
      if (material.alphaMap) {
        Object.assign(depth, { alphaMap: material.alphaMap, alphaTest: shading.alphaCutoff });
        depthReads.opacity = reads.opacity;
        casts.cut = true;
      }
    } else Object.assign(material, { transparent: true, depthWrite: false });
  }
  if (isMissing(base.map, context)) {
    material.map = textures.missing();
    reads.baseColor = {
      ...(base.map as MapUse),
      component: 'rgb',
      invert: false,
      gain: 1,
      offset: 0,
      decode: false,
    };
    material.metalness = 0;
    material.metalnessMap = null;
  }
  patchReads(material, reads, { specGloss });
  if (!casts.cut && !casts.moved) {
    depth.dispose();
    return { shown: material, depth: null };
  }
  patchReads(depth, depthReads);
  return { shown: material, depth };
}

function colourOf(
  { channels }: NeutralMaterial,
  channel: 'baseColor' | 'specularColor',
): { value: Rgb; map: MapUse | null } {
  const { value, map } = channels[channel] ?? { value: [1, 1, 1] as Rgb, map: null };
  return { value: typeof value === 'number' ? [value, value, value] : value, map };
}

/**
 * One channel alone, unlit: data as it is stored, colours as light through the picture's sRGB curve and
 * nothing else.
 */
function channelMaterial(neutral: NeutralMaterial, channel: ChannelName, context: MaterialContext): Material {
  const { textures } = context;
  const { value, use } = channelInput(neutral, channel);
  const material = new MeshBasicMaterial({
    toneMapped: false,
    side: neutral.doubleSided ? DoubleSide : FrontSide,
    wireframe: context.wireframe,
    vertexColors: channel === 'baseColor' && paints(neutral, context),
  });
  const image = use && imageOf(use, context);
  if (use && !image) {
    material.map = textures.missing();
    return material;
  }
  const colour = COLOUR_CHANNELS.has(channel);
  if (colour || image) material.color.setRGB(...clampColour(value));
  else material.color.setRGB(...clampColour(value), SRGBColorSpace);
  if (!use || !image) return material;
  // Data that is tagged as colour is read through that curve, and shown so.
  const raw = !colour && !(channel !== 'normal' && isColourSpace(use.space));
  material.map = textures.get(use, image, { raw, channel, tiles: tilesOf(use, context) });
  const read =
    channel === 'normal'
      ? { ...use, component: 'rgb' as const, decode: false }
      : { ...use, decode: colour && decodesInShader(use, image) };
  patchReads(
    material,
    { baseColor: read },
    { rawOutput: !colour, turnGreen: context.alike && channel === 'normal' && use.normalY === 'Y-' },
  );
  return material;
}

/** The channel as the material has it; roughness and metalness also where it says them in other words. */
function channelInput(neutral: NeutralMaterial, channel: ChannelName): { value: Rgb; use: MapUse | null } {
  const shading = toMetalRough(neutral);
  const existing = neutral.channels[channel];
  const grey = (value: number | Rgb): Rgb => (typeof value === 'number' ? [value, value, value] : value);
  if (channel === 'normal')
    return { value: existing?.map ? [1, 1, 1] : [0.5, 0.5, 1], use: existing?.map ?? null };
  if (existing)
    return {
      value: channel === 'occlusion' && existing.map ? [1, 1, 1] : grey(existing.value),
      use: existing.map,
    };
  if (channel === 'roughness' || channel === 'metalness')
    return { value: grey(shading[channel].value), use: shading[channel].map };
  return { value: grey(neutralValue(channel)), use: null };
}

/** Channels that any material of the state has, in the order of the board. */
export function channelsIn({ materials }: AssetState): ChannelName[] {
  return CHANNELS.filter((channel) => materials.some((material) => material.channels[channel]));
}

function clampColour(value: readonly number[]): Rgb {
  return value.map((component) => Math.min(1, Math.max(0, component))) as Rgb;
}

/** Width and height of the material's first map, for the density of its texels; null without one. */
function mapSize({ channels }: NeutralMaterial, context: MaterialContext): [number, number] | null {
  for (const channel of CHANNELS) {
    const map = channels[channel]?.map;
    const image = map && imageOf(map, context);
    if (image?.info) return [image.info.width, image.info.height];
  }
  return null;
}

export function imageOf(
  use: MapUse,
  { state, images }: Pick<MaterialContext, 'state' | 'images'>,
): ParcelImage | null {
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
