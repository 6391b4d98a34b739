import type { AssetState, ParcelImage } from '../asset/asset.ts';
import type { ComponentRecipe, Destination, OutputMap } from '../destinations/destination.ts';
import { channelsLeftOut, type MetalRough, toMetalRough } from '../materials/metalRough.ts';
import type { Component, MapUse, Material } from '../scene/material.ts';
import { createNamer } from '../parcel/names.ts';

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
}

export interface PlannedMaterial {
  key: string;
  name: string;
  shading: MetalRough;
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
    const name = nameMaterial(material.name, 'material');
    const own: PlannedMaterial['images'] = {};
    for (const map of destination.maps) {
      const image = planImage(material, name, shading, map, destination, state, files, losses);
      if (!image) continue;
      const key = JSON.stringify([image.components, image.width, image.height, image.copyOf]);
      const known = planned.get(key);
      if (known) own[map.name] = { ...known, use: image.use };
      else {
        const extension = image.copyOf ? extensionFor(files.get(image.copyOf)) : 'png';
        image.file = `${nameFile(image.file)}.${extension}`;
        planned.set(key, image);
        own[map.name] = image;
      }
    }
    for (const channel of channelsLeftOut(material)) losses.push(`${material.key}: the map of ${channel} has no place in ${destination.title}`);
    return { key: material.key, name, shading, images: own };
  });
  return { destination, materials, images: [...planned.values()], losses: [...new Set(losses)] };
}

function extensionFor(image: ParcelImage | undefined): string {
  return image?.info?.format === 'jpeg' ? 'jpg' : 'png';
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

/** The image a use reads, when it is there and readable. */
export function fileOf(map: MapUse, state: AssetState, files: Map<string, ParcelImage>): ParcelImage | null {
  const path = state.images.find((image) => image.key === map.image)?.resolved;
  const file = path ? files.get(path) : undefined;
  return file?.info ? file : null;
}

function mapOf(shading: MetalRough, channel: string): MapUse | null {
  const input = shading[channel as keyof MetalRough];
  if (input && typeof input === 'object' && 'map' in input) return input.map;
  return (input as MapUse | null) ?? null;
}

function planImage(
  material: Material,
  name: string,
  shading: MetalRough,
  map: OutputMap,
  destination: Destination,
  state: AssetState,
  files: Map<string, ParcelImage>,
  losses: string[],
): PlannedImage | null {
  const alpha = map.alpha && shading.alphaMode !== 'opaque' && mapOf(shading, map.alpha.channel) ? [map.alpha] : [];
  const recipes = [...map.components, ...alpha];
  const uses = recipes.map((recipe) => mapOf(shading, recipe.channel));
  const first = uses.find((use) => use !== null);
  if (!first) return null;
  let width = 0;
  let height = 0;
  const components = recipes.map((recipe, i): ComponentSource => {
    const use = uses[i];
    const file = use && fileOf(use, state, files);
    if (!use || !file?.info) return { from: 'constant', channel: recipe.channel, value: recipe.empty };
    const tiles = state.images.find((image) => image.key === use.image)?.tiles;
    if (tiles && tiles.length > 1)
      losses.push(`${material.key}: of the ${tiles.length} tiles of ${recipe.channel} only ${tiles[0].number} has a place in ${destination.title}`);
    width = Math.max(width, file.info.width);
    height = Math.max(height, file.info.height);
    if (!sameReading(use, first)) losses.push(`${material.key}: ${recipe.channel} has its own UV set, transform or wrap, which one packed image cannot keep`);
    return imageSource(recipe, use, file, destination);
  });
  return {
    file: `${name}_${map.suffix}`,
    map,
    width,
    height,
    components,
    copyOf: copySource(components, map, files),
    use: first,
  };
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
  return straight && enough && (info.format === 'png' || info.format === 'jpeg') ? first.path : null;
}
