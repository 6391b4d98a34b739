import type { AssetState, ParcelImage } from '../asset/asset.ts';
import type { ComponentRecipe, Destination, MapType, OutputMap } from '../destinations/profile.ts';
import { channelsLeftOut, type MetalRough, toMetalRough } from '../materials/metalRough.ts';
import { scalarValue } from '../materials/recipes/recipe.ts';
import { type ChannelName, type Component, type MapUse, type Material, VECTOR_CHANNELS } from '../scene/material.ts';
import { createNamer } from '../parcel/names.ts';
import { type ChannelInput, type ChannelInputs, channelInputs } from './inputs.ts';

/** Where one component of an output image comes from. */
export type ComponentSource = ImageSource | { from: 'constant'; channel: string; value: number };

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
  flip: boolean;
  exponent?: number;
  repair?: MapUse['repair'];
}

export interface PlannedImage {
  /** File name in the package, unique. */
  file: string;
  map: OutputMap;
  width: number;
  height: number;
  components: ComponentSource[];
  /** Set when the source image already is what is wanted: its bytes go out unchanged. */
  copyOf: string | null;
  /** UV set, transform and wrap that the texture is read with. */
  use: MapUse;
  /** Of a map in tiles that the destination keeps: its number, and the file name with `<UDIM>` in its place. */
  tile: number | null;
  pattern: string;
}

export interface PlannedMaterial {
  key: string;
  name: string;
  shading: MetalRough;
  /** The material in the destination's shading model. */
  inputs: ChannelInputs;
  /** The material that it was planned from. */
  source: Material;
  /** Per output map name the image. */
  images: Partial<Record<string, PlannedImage>>;
}

export interface HandoffPlan {
  destination: Destination;
  materials: PlannedMaterial[];
  /** Each image once, however many materials share it. */
  images: PlannedImage[];
  /** What will be missing from the result, in words. */
  losses: string[];
  /** What was converted first, in words. */
  prepared: string[];
  /** What the format has no words for and the receiver's sheet tells instead. */
  unsaid: string[];
}

/** Decides every output image and every loss before anything is computed. */
export function planHandoff(state: AssetState, images: readonly ParcelImage[], destination: Destination): HandoffPlan {
  const files = new Map(images.map((image) => [image.path, image]));
  const planned = new Map<string, PlannedImage>();
  const nameFile = createNamer();
  const nameMaterial = createNamer();
  const losses: string[] = [];
  const taken = state.intake.parts.includes('materials') ? state.materials : [];
  const materials = taken.map((material): PlannedMaterial => {
    const shading = withoutMissing(material, toMetalRough(material), state, files, losses);
    const inputs = usableInputs(channelInputs(material, destination.workflow, shading), state, files, material.key, losses);
    const name = nameMaterial(material.name, 'material');
    const own: PlannedMaterial['images'] = {};
    for (const map of destination.maps) {
      for (const tile of tilesFor(map, inputs, destination, state)) {
        const image = planImage(material, `${destination.prefix}${name}`, inputs, map, destination, state, files, losses, tile);
        if (!image) continue;
        const key = JSON.stringify([image.components, image.width, image.height, image.copyOf, map.type, map.depth, tile]);
        const known = planned.get(key);
        const first = own[map.name];
        if (known) own[map.name] = first ?? { ...known, use: image.use };
        else {
          const stem = tile === null || first === undefined ? nameFile(image.file) : first.pattern.replace(/\.<UDIM>.*$/, '');
          const extension = image.copyOf ? extensionFor(files.get(image.copyOf), map.type) : EXTENSIONS[map.type];
          image.pattern = tile === null ? `${stem}.${extension}` : `${stem}.<UDIM>.${extension}`;
          image.file = image.pattern.replace('<UDIM>', String(tile));
          planned.set(key, image);
          own[map.name] = first ?? image;
        }
      }
    }
    for (const channel of leftOut(material, inputs, destination)) losses.push(`${material.key}: the map of ${channel} has no place in ${destination.title}`);
    return { key: material.key, name, shading, inputs, source: material, images: own };
  });
  return { destination, materials, images: [...planned.values()], losses: [...new Set(losses)], prepared: [], unsaid: [] };
}

const EXTENSIONS: Record<MapType, string> = { png: 'png', tga: 'tga', tiff: 'tif', exr: 'exr' };

/** Channels with a map that no output image of the destination holds. */
function leftOut(material: Material, inputs: ChannelInputs, destination: Destination): ChannelName[] {
  if (destination.format === 'gltf') return channelsLeftOut(material);
  const held = new Set(destination.maps.flatMap(({ components, alpha }) => [...components, ...(alpha ? [alpha] : [])].map(({ channel }) => channel)));
  // Roughness and glossiness say the same.
  if (held.has('glossiness')) held.add('roughness');
  if (held.has('roughness')) held.add('glossiness');
  return (Object.keys(inputs) as ChannelName[]).filter((channel) => inputs[channel]?.map && !held.has(channel));
}

/** Inputs whose image is missing keep their value alone; other channels than glTF's are told of here. */
function usableInputs(inputs: ChannelInputs, state: AssetState, files: Map<string, ParcelImage>, material: string, losses: string[]): ChannelInputs {
  return Object.fromEntries(
    Object.entries(inputs).map(([channel, input]: [string, ChannelInput]) => {
      if (!input.map || fileOf(input.map, state, files)) return [channel, input];
      losses.push(`${material}: the image of ${channel === 'glossiness' ? 'roughness' : channel} is missing; its value stands alone`);
      return [channel, { ...input, map: null }];
    }),
  );
}

/** Tile numbers of an output image that a destination keeps in tiles; one nameless tile for any other. */
function tilesFor({ components, alpha }: OutputMap, inputs: ChannelInputs, { tiles }: Destination, state: AssetState): (number | null)[] {
  if (!tiles) return [null];
  const numbers = new Set<number>();
  for (const { channel } of [...components, ...(alpha ? [alpha] : [])]) {
    const use = inputs[channel]?.map;
    const entry = use && state.images.find((image) => image.key === use.image);
    for (const { number } of entry?.tiles ?? []) numbers.add(number);
  }
  return numbers.size > 1 ? [...numbers].sort((a, b) => a - b) : [null];
}

function extensionFor(image: ParcelImage | undefined, type: MapType): string {
  return image?.info?.format === 'jpeg' ? 'jpg' : EXTENSIONS[type];
}

/** Maps whose image is missing or broken are dropped, and said so; the value stands alone then. */
function withoutMissing(material: Material, shading: MetalRough, state: AssetState, files: Map<string, ParcelImage>, losses: string[]): MetalRough {
  const usable = (map: MapUse | null, channel: string) => {
    if (!map) return null;
    if (fileOf(map, state, files)) return map;
    losses.push(`${material.key}: the image of ${channel} is missing; its value stands alone`);
    return null;
  };
  return {
    ...shading,
    baseColor: { ...shading.baseColor, map: usable(shading.baseColor.map, 'baseColor') },
    metalness: { ...shading.metalness, map: usable(shading.metalness.map, 'metalness') },
    roughness: { ...shading.roughness, map: usable(shading.roughness.map, 'roughness') },
    emission: { ...shading.emission, map: usable(shading.emission.map, 'emission') },
    opacity: { ...shading.opacity, map: usable(shading.opacity.map, 'opacity') },
    transmission: { ...shading.transmission, map: usable(shading.transmission.map, 'transmission') },
    normal: usable(shading.normal, 'normal'),
    occlusion: usable(shading.occlusion, 'occlusion'),
  };
}

/** The image a use reads, or one tile of it, when it is there and readable. */
export function fileOf(map: MapUse, state: AssetState, files: Map<string, ParcelImage>, tile: number | null = null): ParcelImage | null {
  const entry = state.images.find((image) => image.key === map.image);
  const path = (tile === null ? undefined : entry?.tiles?.find(({ number }) => number === tile)?.path) ?? entry?.resolved;
  const file = path ? files.get(path) : undefined;
  return file?.info ? file : null;
}

function planImage(
  material: Material,
  name: string,
  inputs: ChannelInputs,
  map: OutputMap,
  destination: Destination,
  state: AssetState,
  files: Map<string, ParcelImage>,
  losses: string[],
  tile: number | null,
): PlannedImage | null {
  const alpha = map.alpha && material.alphaMode !== 'opaque' && inputs[map.alpha.channel]?.map ? [map.alpha] : [];
  const recipes = [...map.components, ...alpha];
  const uses = recipes.map((recipe) => inputs[recipe.channel]?.map ?? null);
  const first = uses.find((use) => use !== null);
  if (!first) return null;
  let width = 0;
  let height = 0;
  const components = recipes.map((recipe, i): ComponentSource => {
    const use = uses[i];
    const file = use && fileOf(use, state, files, tile);
    const input = inputs[recipe.channel];
    if (!use || !file?.info) return { from: 'constant', channel: recipe.channel, value: emptyOf(recipe, input, destination) };
    const tiles = state.images.find((image) => image.key === use.image)?.tiles;
    if (tiles && tiles.length > 1 && tile === null)
      losses.push(`${material.key}: of the ${tiles.length} tiles of ${recipe.channel} only ${tiles[0].number} has a place in ${destination.title}`);
    width = Math.max(width, file.info.width);
    height = Math.max(height, file.info.height);
    if (!sameReading(use, first)) losses.push(`${material.key}: ${recipe.channel} has its own UV set, transform or wrap, which one packed image cannot keep`);
    return imageSource(recipe, factored(recipe.channel, input as ChannelInput, use, destination), file, destination);
  });
  const longest = Math.max(width, height);
  const palette = first.filter === 'nearest';
  if (destination.maxSize > 0 && longest > destination.maxSize && !palette) {
    [width, height] = [width, height].map((side) => Math.max(1, Math.round((side * destination.maxSize) / longest)));
  }
  const copyOf = copySource(components, map, files);
  const kept = copyOf ? files.get(copyOf)?.info : null;
  return {
    file: `${name}_${map.suffix}`,
    map,
    width,
    height,
    components,
    copyOf: kept && (kept.width !== width || kept.height !== height) ? null : copyOf,
    use: first,
    tile,
    pattern: '',
  };
}

/** What stands for a channel without a map. In packed images of formats without factors it is the value itself. */
function emptyOf({ channel, empty, part }: ComponentRecipe, input: ChannelInput | undefined, { format }: Destination): number {
  if (format === 'gltf' || !input) return empty;
  const value = typeof input.value === 'number' ? input.value : input.value[part];
  return VECTOR_CHANNELS.has(channel) ? empty : Math.min(1, Math.max(0, value));
}

/** Formats without factors of scalars take these in the pixels; amounts of height and bump stay values. */
function factored(channel: ChannelName, { value }: ChannelInput, use: MapUse, { format }: Destination): MapUse {
  if (channel === 'height' || channel === 'bump') return format === 'gltf' ? use : { ...use, gain: 1, offset: 0 };
  if (format === 'gltf' || VECTOR_CHANNELS.has(channel)) return use;
  const factor = scalarValue(value);
  return factor === 1 ? use : { ...use, gain: use.gain * factor, offset: use.offset * factor };
}

function imageSource(recipe: ComponentRecipe, use: MapUse, file: ParcelImage, destination: Destination): ComponentSource {
  const flip = recipe.channel === 'normal' && recipe.part === 1 && use.normalY !== destination.normalY;
  const { component, invert, gain, offset, space, exponent, repair } = use;
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
    space,
    flip,
    ...(exponent === undefined ? {} : { exponent }),
    ...(repair === undefined ? {} : { repair }),
  };
}

function sameReading(a: MapUse, b: MapUse): boolean {
  const view = ({ uvSet, transform, wrap }: MapUse) => JSON.stringify([uvSet, transform, wrap]);
  return view(a) === view(b);
}

const POSITIONS = ['r', 'g', 'b', 'a'];

/** The one PNG or JPEG that already has every component where it belongs and as it should be, or null. */
function copySource(components: ComponentSource[], map: OutputMap, files: Map<string, ParcelImage>): string | null {
  const [first] = components;
  if (first.from !== 'image') return null;
  const straight = components.every((source, i) => {
    if (source.from !== 'image' || source.path !== first.path) return false;
    if (source.invert || source.flip || source.gain !== 1 || source.offset !== 0 || source.exponent || source.repair) return false;
    if (map.space !== 'data' && source.space !== map.space) return false;
    return source.component === POSITIONS[i] || (source.component === 'rgb' && source.part === i);
  });
  const info = files.get(first.path)?.info;
  const enough = info && info.components >= components.length && components.length >= 3;
  if (!straight || !enough) return null;
  const types = map.type === 'png' ? ['png', 'jpeg'] : [map.type];
  const depth = map.depth === 'half' ? 16 : map.depth === 'float' ? 32 : map.depth;
  return types.includes(info.format) && (map.type === 'png' || info.bitDepth === depth) ? first.path : null;
}
