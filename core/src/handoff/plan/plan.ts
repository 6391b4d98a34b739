import type { AssetState, ParcelImage } from '../../asset/asset.ts';
import { fillName } from '../../destinations/names.ts';
import type { Destination, OutputMap } from '../../destinations/profile.ts';
import { channelsLeftOut, type MetalRough, toMetalRough, USUAL_SHEEN } from '../../materials/metalRough.ts';
import { createNamer } from '../../parcel/names.ts';
import { distinctLosses, type Loss, type LossCode } from '../../scene/loss.ts';
import type { ChannelName, MapUse, Material } from '../../scene/material.ts';
import { colourValue } from '../../scene/material.ts';
import { type ChannelInput, type ChannelInputs, channelInputs } from './inputs.ts';
import {
  EXTENSIONS,
  fileOf,
  type ImageContext,
  type PlannedImage,
  planImage,
  takesAlpha,
} from './planImage.ts';
import { readApart } from './readApart.ts';

/** One material as the destination gets it. */
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

/** A value: what the stages after planning find they put into a plan of their own. */
export interface HandoffPlan {
  readonly destination: Destination;
  readonly materials: readonly PlannedMaterial[];
  /** Each image once, however many materials share it. */
  readonly images: readonly PlannedImage[];
  /** What will be missing from the result. */
  readonly losses: readonly Loss[];
  /** The source file itself is changed; images go along as they are. */
  readonly patched: boolean;
  /** What was converted first, in words. */
  readonly prepared: readonly string[];
  /** What the format has no words for and the receiver's sheet tells instead. */
  readonly unsaid: readonly Loss[];
}

/**
 * Decides every output image and every loss before anything is computed. `asset` is its name, for templates
 * of names.
 */
export function planHandoff(
  state: AssetState,
  images: readonly ParcelImage[],
  destination: Destination,
  asset = 'asset',
): HandoffPlan {
  const files = new Map(images.map((image) => [image.path, image]));
  const planned = new Map<string, PlannedImage>();
  const nameFile = createNamer();
  const losses: Loss[] = [];
  const has: HasImage = (map) => fileOf(map, state, files) !== null;
  const { names } = destination;
  const taken = state.intake.parts.includes('materials') ? state.materials : [];
  const filled = (material: Material) =>
    fillName(names.material, { material: material.name, asset }, 'material');
  const nameMaterial = createNamer(taken.map(filled));
  const nameBare = createNamer(taken.map(({ name }) => name));
  const materials = taken.map((material): PlannedMaterial => {
    const shading = withoutMissing(material, toMetalRough(material), has, losses);
    const inputs = usableInputs(
      channelInputs(material, destination.workflow, shading),
      has,
      material.key,
      losses,
    );
    const context: ImageContext = { material, inputs, destination, state, files, losses };
    const name = nameMaterial(filled(material), 'material');
    const bare = nameBare(material.name, 'material');
    const materialImages: PlannedMaterial['images'] = {};
    const asked = destination.maps.flatMap((map) =>
      readApart(map, inputs, destination, takesAlpha(map, material)),
    );
    for (const { map, inputs: alike, apart } of asked) {
      for (const channel of apart) losses.push({ code: 'map.apart', material: material.key, channel });
      for (const tile of tilesFor(map, alike, destination, state)) {
        const image = planImage({ ...context, inputs: alike }, map, tile);
        if (!image) continue;
        const key = JSON.stringify([
          image.components,
          image.width,
          image.height,
          image.copyOf,
          image.map.type,
          image.map.depth,
          map.space,
          tile,
        ]);
        const existing = planned.get(key);
        const first = materialImages[map.name];
        if (existing) materialImages[map.name] = first ?? { ...existing, use: image.use };
        else {
          const required = fillName(names.map, { material: bare, asset, suffix: map.suffix }, map.suffix);
          const stem =
            tile === null || first === undefined
              ? nameFile(required)
              : first.pattern.replace(/\.<UDIM>.*$/, '');
          const extension = image.copyOf
            ? extensionFor(files.get(image.copyOf), image.map.type)
            : EXTENSIONS[image.map.type];
          image.pattern = tile === null ? `${stem}.${extension}` : `${stem}.<UDIM>.${extension}`;
          image.file = image.pattern.replace('<UDIM>', String(tile));
          if (destination.folderPerMaterial)
            image.folder = destination.folder === '' ? name : `${destination.folder}/${name}`;
          planned.set(key, image);
          materialImages[map.name] = first ?? image;
        }
      }
    }
    for (const channel of leftOut(material, inputs, destination))
      losses.push({ code: 'map.noPlace', material: material.key, channel, detail: destination.title });
    for (const channel of valuesLeftOut(inputs, destination))
      losses.push({ code: 'value.noPlace', material: material.key, channel, detail: destination.title });
    if (destination.format !== 'gltf')
      for (const code of layersLeftOut(shading))
        losses.push({ code, material: material.key, detail: destination.title });
    return { key: material.key, name, shading, inputs, source: material, images: materialImages };
  });
  return {
    destination,
    materials,
    images: [...planned.values()],
    losses: distinctLosses(losses),
    patched: false,
    prepared: [],
    unsaid: [],
  };
}

/** What extensions of glTF hold, if the destination asks for them. */
export const IN_EXTENSIONS: readonly ChannelName[] = [
  'transmission',
  'coat',
  'coatRoughness',
  'sheenColor',
  'specular',
  'specularColor',
];

/** Channels with a map that no output image of the destination holds. */
function leftOut(material: Material, inputs: ChannelInputs, destination: Destination): ChannelName[] {
  const held = new Set(
    destination.maps.flatMap(({ components, alpha }) =>
      [...components, ...(alpha ? [alpha] : [])].map(({ channel }) => channel),
    ),
  );
  if (destination.format === 'gltf')
    return [
      ...channelsLeftOut(material),
      ...IN_EXTENSIONS.filter((channel) => inputs[channel]?.map && !held.has(channel)),
    ];
  // Roughness and glossiness say the same.
  if (held.has('glossiness')) held.add('roughness');
  if (held.has('roughness')) held.add('glossiness');
  // What stands in for the other of the two is told once.
  const other = (channel: ChannelName) =>
    (channel === 'glossiness' || channel === 'roughness') && !material.channels[channel];
  const lost = (Object.keys(inputs) as ChannelName[]).filter(
    (channel) => inputs[channel]?.map && !held.has(channel) && !other(channel),
  );
  return [...new Set([...lost, ...highlightsLeftOut(material, inputs, destination)])];
}

/**
 * Maps of what reflects that the destination's shading model has no input for: a weight over the surface where
 * reflections are a colour, and classic highlights where they come from metalness.
 */
function highlightsLeftOut(
  { channels }: Material,
  inputs: ChannelInputs,
  { workflow }: Destination,
): ChannelName[] {
  const lost = (...names: ChannelName[]) =>
    names.filter((channel) => channels[channel]?.map && !inputs[channel]?.map);
  if (workflow === 'specGloss') return lost('specular');
  return workflow === 'metalRough' ? lost('specular', 'specularColor') : [];
}

/** What classic materials have no word for, and what they say without it. */
const NOT_CLASSIC: readonly [ChannelName, number][] = [
  ['metalness', 0],
  ['transmission', 0],
  ['coat', 0],
  ['coatRoughness', 0],
  ['sheenColor', 0],
  ['ior', 1.5],
];

/** Channels whose value alone says something that the format, or classic materials, cannot. */
function valuesLeftOut(inputs: ChannelInputs, { writeAs, workflow, format }: Destination): ChannelName[] {
  const { occlusion } = inputs;
  // Of glTF occlusion is an image.
  if (format === 'gltf') return occlusion && !occlusion.map && occlusion.value !== 1 ? ['occlusion'] : [];
  if ((writeAs ?? workflow) !== 'legacy') return [];
  return NOT_CLASSIC.flatMap(([channel, neutral]) => {
    // MTL has a word for it.
    if (channel === 'ior' && format === 'obj') return [];
    const input = inputs[channel];
    return input && !input.map && colourValue(input.value).some((component) => component !== neutral)
      ? [channel]
      : [];
  });
}

/** What glTF alone says of glass and cloth, beside their channels. */
function layersLeftOut({ transmission, thickness, sheenColor, sheenRoughness }: MetalRough): LossCode[] {
  const isGlass = transmission.map !== null || transmission.value > 0;
  const isCloth = sheenColor.map !== null || sheenColor.value.some((component) => component > 0);
  return [
    ...(isGlass && thickness > 0 ? (['glass.thickness'] as const) : []),
    ...(isCloth && sheenRoughness !== USUAL_SHEEN ? (['cloth.roughness'] as const) : []),
  ];
}

/** Whether the image of a use is there and can be read. */
type HasImage = (map: MapUse) => boolean;

/** Inputs whose image is missing keep their value alone; other channels than glTF's are told of here. */
function usableInputs(inputs: ChannelInputs, has: HasImage, material: string, losses: Loss[]): ChannelInputs {
  return Object.fromEntries(
    Object.entries(inputs).map(([channel, input]: [string, ChannelInput]) => {
      if (!input.map || has(input.map)) return [channel, input];
      losses.push({
        code: 'map.missing',
        material,
        channel: channel === 'glossiness' ? 'roughness' : (channel as ChannelName),
      });
      return [channel, { ...input, map: null }];
    }),
  );
}

/** Tile numbers of an output image that a destination keeps in tiles; one nameless tile for any other. */
function tilesFor(
  { components, alpha }: OutputMap,
  inputs: ChannelInputs,
  { tiles }: Destination,
  state: AssetState,
): (number | null)[] {
  if (!tiles) return [null];
  const numbers = new Set<number>();
  for (const { channel } of [...components, ...(alpha ? [alpha] : [])]) {
    const use = inputs[channel]?.map;
    const entry = use && state.images.find((image) => image.key === use.image);
    for (const { number } of entry?.tiles ?? []) numbers.add(number);
  }
  return numbers.size > 1 ? [...numbers].sort((a, b) => a - b) : [null];
}

function extensionFor(image: ParcelImage | undefined, type: OutputMap['type']): string {
  return image?.info?.format === 'jpeg' ? 'jpg' : EXTENSIONS[type];
}

/** Maps whose image is missing or broken are dropped, and said so; the value stands alone then. */
function withoutMissing(material: Material, shading: MetalRough, has: HasImage, losses: Loss[]): MetalRough {
  const usable = (map: MapUse | null, channel: ChannelName) => {
    if (!map) return null;
    if (has(map)) return map;
    losses.push({ code: 'map.missing', material: material.key, channel });
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
    specular: { ...shading.specular, map: usable(shading.specular.map, 'specular') },
    specularColor: { ...shading.specularColor, map: usable(shading.specularColor.map, 'specularColor') },
    normal: usable(shading.normal, 'normal'),
    occlusion: usable(shading.occlusion, 'occlusion'),
  };
}
