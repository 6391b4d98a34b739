import type { AssetState, ParcelImage } from '../../asset/asset.ts';
import { scalarCurve } from '../../colour/spaces.ts';
import {
  type ComponentRecipe,
  type Destination,
  keepsFloats,
  type MapDepth,
  type MapType,
  type OutputMap,
} from '../../destinations/profile.ts';
import type { ImageInfo } from '../../images/probe.ts';
import { changesNormals } from '../../maps/normalRepair.ts';
import type { Loss } from '../../scene/loss.ts';
import { sameReading } from '../../scene/mapUse.ts';
import {
  type ChannelName,
  COLOUR_CHANNELS,
  type Component,
  type MapUse,
  type Material,
  scalarValue,
  VECTOR_CHANNELS,
} from '../../scene/material.ts';
import { writtenHeight } from './heights.ts';
import type { ChannelInput, ChannelInputs } from './inputs.ts';

/** Where one component of an output image comes from. */
export type ComponentSource = ImageSource | { from: 'constant'; channel: string; value: number };

/**
 * What a component of a written image is read from: a component of a source image, and how its numbers become
 * those of the channel.
 */
export interface ImageSource {
  from: 'image';
  channel: string;
  path: string;
  sha256: string;
  component: Component;
  part: 0 | 1 | 2;
  invert: boolean;
  gain: number;
  offset: number;
  space: MapUse['space'];
  /**
   * The finished number is written as 1 - x: a normal's direction, or a component that is wanted inverted.
   */
  flip: boolean;
  exponent?: number;
  repair?: MapUse['repair'];
  strength?: MapUse['strength'];
  range?: MapUse['range'];
  /** Of a cut-out: what counts as there, from this number on; resizing keeps its share. */
  cutoff?: number;
}

/** An image that the package will hold. */
export interface PlannedImage {
  /** File name in the package, unique. */
  file: string;
  /** Folder beside the model that it lies in; '' for none. */
  folder: string;
  map: OutputMap;
  width: number;
  height: number;
  components: ComponentSource[];
  /** Set when the source image already is what is wanted: its bytes go out unchanged. */
  copyOf: string | null;
  /** Type and depth of a copied image; absent for baked ones. */
  copied?: ImageKind;
  /** UV set, transform and wrap that the texture is read with. */
  use: MapUse;
  /**
   * Of a map in tiles that the destination keeps: its number, and the file name with `<UDIM>` in its place.
   */
  tile: number | null;
  pattern: string;
}

/** File extension by type of image. */
export const EXTENSIONS: Record<MapType, string> = { png: 'png', tga: 'tga', tiff: 'tif', exr: 'exr' };

/** What an image is planned from. */
export interface ImageContext {
  material: Material;
  inputs: ChannelInputs;
  destination: Destination;
  state: AssetState;
  files: ReadonlyMap<string, ParcelImage>;
  losses: Loss[];
}

/** The image a use reads, or one tile of it, when it is there and readable. */
export function fileOf(
  map: MapUse,
  state: AssetState,
  files: ReadonlyMap<string, ParcelImage>,
  tile: number | null = null,
): ParcelImage | null {
  const entry = state.images.find((image) => image.key === map.image);
  const path =
    (tile === null ? undefined : entry?.tiles?.find(({ number }) => number === tile)?.path) ??
    entry?.resolved;
  const file = path ? files.get(path) : undefined;
  return file?.info ? file : null;
}

/**
 * One output image of a material, or one tile of it; null where none of its channels has a map. Names are
 * given later.
 */
export function planImage(
  context: ImageContext,
  required: OutputMap,
  tile: number | null,
): PlannedImage | null {
  const { material, inputs, destination, state, files, losses } = context;
  const takes = takesAlpha(required, material);
  const alpha = takes && required.alpha && inputs[required.alpha.channel]?.map ? [required.alpha] : [];
  const recipes = [...required.components, ...alpha];
  const uses = recipes.map((recipe) => inputs[recipe.channel]?.map ?? null);
  const first = uses.find((use) => use !== null);
  if (!first) return null;
  let width = 0;
  let height = 0;
  const infos: ImageInfo[] = [];
  const components = recipes.map((recipe, i): ComponentSource => {
    const use = uses[i];
    const file = use && fileOf(use, state, files, tile);
    const input = inputs[recipe.channel];
    if (!use || !file?.info)
      return { from: 'constant', channel: recipe.channel, value: emptyOf(recipe, input, destination) };
    infos.push(file.info);
    width = Math.max(width, file.info.width);
    height = Math.max(height, file.info.height);
    if (!sameReading(use, first))
      losses.push({ code: 'map.ownReading', material: material.key, channel: recipe.channel });
    const source = imageSource(
      recipe,
      factored(recipe.channel, input as ChannelInput, use, context),
      file,
      destination,
    );
    return recipe.channel === 'opacity' && material.alphaMode === 'mask'
      ? { ...source, cutoff: material.alphaCutoff }
      : source;
  });
  [width, height] = fitted(width, height, first, destination);
  const map = keptPrecision(required, infos, destination);
  const copied = copySource(components, map, files);
  const keptInfo = copied ? files.get(copied)?.info : null;
  // Where the image's alpha is read it must be what the plan says, and none is said as none.
  const readsAlpha = takes && (alpha.length > 0 || required.alpha?.channel === 'opacity');
  const copyOf = readsAlpha && keptInfo?.components !== components.length ? null : copied;
  return {
    file: '',
    folder: destination.folder,
    map,
    width,
    height,
    components,
    ...(copyOf && keptInfo && keptInfo.width === width && keptInfo.height === height
      ? { copyOf, copied: kindOf(keptInfo) }
      : { copyOf: null }),
    use: first,
    tile,
    pattern: '',
  };
}

/** Whether a map's alpha may be taken: opacity is nothing to an opaque material. */
export function takesAlpha({ alpha }: OutputMap, { alphaMode }: Pick<Material, 'alphaMode'>): boolean {
  return alpha !== null && (alpha.channel !== 'opacity' || alphaMode !== 'opaque');
}

/** What an image file is, as far as its receiver minds. */
export interface ImageKind {
  type: string;
  depth: MapDepth;
}

/** The type and depth in which an image is stored. */
export function kindOf({
  format,
  bitDepth,
  floating,
}: Pick<ImageInfo, 'format' | 'bitDepth' | 'floating'>): ImageKind {
  return { type: format, depth: depthOf(floating, bitDepth) };
}

function depthOf(floating: boolean, bitDepth: number): MapDepth {
  if (floating) return bitDepth === 16 ? 'half' : 'float';
  return bitDepth === 16 ? 16 : 8;
}

/** Type and depth that an image goes out in: its own where it is copied. */
export function plannedKind({
  map: { type, depth },
  copied,
}: Pick<PlannedImage, 'map' | 'copied'>): ImageKind {
  return copied ?? { type, depth };
}

/**
 * Floats stay floats where the destination can hold them: in its TIFF, and as EXR where it takes EXR anyway.
 * Integers go out as it wants them.
 */
function keptPrecision(map: OutputMap, infos: readonly ImageInfo[], destination: Destination): OutputMap {
  if (!keepsFloats(map, destination) || !infos.some(({ floating }) => floating)) return map;
  const single = infos.some(({ floating, bitDepth }) => floating && bitDepth === 32);
  if (map.type === 'exr') return map.depth === 'half' && single ? { ...map, depth: 'float' } : map;
  if (map.type === 'tiff') return { ...map, depth: 'float' };
  return { ...map, type: 'exr', depth: single ? 'float' : 'half' };
}

/** Sides as the destination allows them. Palettes keep theirs where it says so. */
function fitted(
  width: number,
  height: number,
  use: MapUse,
  { maxSize, powerOfTwo, keepPalettes }: Destination,
): [number, number] {
  if (keepPalettes && use.filter === 'nearest') return [width, height];
  const longest = Math.max(width, height);
  const shrink = maxSize > 0 && longest > maxSize ? maxSize / longest : 1;
  const side = (length: number) => {
    const shrunk = Math.max(1, Math.round(length * shrink));
    return powerOfTwo ? 2 ** Math.floor(Math.log2(shrunk)) : shrunk;
  };
  return [side(width), side(height)];
}

/**
 * What stands for a channel without a map. In packed images of formats without factors it is the value
 * itself.
 */
function emptyOf(
  { channel, empty, part, invert }: ComponentRecipe,
  input: ChannelInput | undefined,
  { format }: Destination,
): number {
  if (format === 'gltf' || !input || VECTOR_CHANNELS.has(channel)) return empty;
  const value = Math.min(1, Math.max(0, typeof input.value === 'number' ? input.value : input.value[part]));
  return invert ? 1 - value : value;
}

/** Formats without factors of scalars take these in the pixels; amounts of height and bump stay values. */
function factored(
  channel: ChannelName,
  input: ChannelInput,
  use: MapUse,
  { destination, material, losses }: ImageContext,
): MapUse {
  const { format } = destination;
  if (channel === 'height' || channel === 'bump') {
    if (format === 'gltf') return use;
    const { gain, offset, cut } = writtenHeight(
      input,
      channel === 'height' ? destination : { heightMid: null, format },
    );
    if (cut) losses.push({ code: 'height.cut', material: material.key, channel });
    return { ...use, gain, offset };
  }
  // Occlusion is what its map says, and nothing without one.
  if (format === 'gltf' || channel === 'occlusion' || VECTOR_CHANNELS.has(channel)) return use;
  const factor = scalarValue(input.value);
  return factor === 1 ? use : { ...use, gain: use.gain * factor, offset: use.offset * factor };
}

function imageSource(
  recipe: ComponentRecipe,
  use: MapUse,
  file: ParcelImage,
  destination: Destination,
): ImageSource {
  const turned = recipe.channel === 'normal' && recipe.part === 1 && use.normalY !== destination.normalY;
  const { component, invert, gain, offset, exponent, repair, strength = 1, range } = use;
  // Shaders take a colour that is tagged as data for light.
  const isLight = use.space === 'data' && COLOUR_CHANNELS.has(recipe.channel);
  return {
    from: 'image',
    channel: recipe.channel,
    path: file.path,
    sha256: file.sha256,
    component,
    part: recipe.part,
    invert,
    gain,
    offset,
    space: isLight ? 'lin_rec709_scene' : use.space,
    flip: turned !== (recipe.invert === true),
    ...(exponent === undefined ? {} : { exponent }),
    ...(repair === undefined ? {} : { repair }),
    ...(strength === 1 || recipe.channel !== 'normal' ? {} : { strength }),
    ...(range === undefined || recipe.channel !== 'normal' ? {} : { range }),
  };
}

const POSITIONS = ['r', 'g', 'b', 'a'];

/** The one PNG or JPEG that already has every component where it belongs and as it should be, or null. */
function copySource(
  components: ComponentSource[],
  map: OutputMap,
  files: ReadonlyMap<string, ParcelImage>,
): string | null {
  const [first] = components;
  if (first.from !== 'image') return null;
  const straight = components.every((source, i) => {
    if (source.from !== 'image' || source.path !== first.path) return false;
    if (
      source.invert ||
      source.flip ||
      source.gain !== 1 ||
      source.offset !== 0 ||
      source.exponent ||
      changesNormals(source)
    )
      return false;
    if (
      map.space !== 'data' &&
      VECTOR_CHANNELS.has(source.channel as ChannelName) &&
      source.space !== map.space
    )
      return false;
    if (!VECTOR_CHANNELS.has(source.channel as ChannelName) && scalarCurve(source.space, source.component))
      return false;
    return source.component === POSITIONS[i] || (source.component === 'rgb' && source.part === i);
  });
  const info = files.get(first.path)?.info;
  // Few readers know inks.
  const enough = info && !info.inks && info.components >= components.length && components.length >= 3;
  if (!straight || !enough) return null;
  const types = map.type === 'png' ? ['png', 'jpeg'] : [map.type];
  const depth = bitsOf(map);
  return types.includes(info.format) && (map.type === 'png' || info.bitDepth === depth) ? first.path : null;
}

function bitsOf(map: OutputMap) {
  if (map.depth === 'half') return 16;
  return map.depth === 'float' ? 32 : map.depth;
}
