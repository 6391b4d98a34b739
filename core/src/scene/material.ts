/** Material inputs, named after OpenPBR and glTF terms. */
export const CHANNELS = [
  'baseColor',
  'metalness',
  'roughness',
  'normal',
  'occlusion',
  'emission',
  'opacity',
  'height',
  'bump',
  'glossiness',
  'specular',
  'specularColor',
  'ior',
  'transmission',
  'coat',
  'coatRoughness',
  'sheenColor',
  'subsurface',
] as const;
/** What a value or map of a material controls, in the words of glTF and OpenPBR. */
export type ChannelName = (typeof CHANNELS)[number];

/** Channels whose images hold colour; every other channel holds data. */
export const COLOUR_CHANNELS: ReadonlySet<ChannelName> = new Set([
  'baseColor',
  'specularColor',
  'emission',
  'sheenColor',
  'subsurface',
]);

/** Channels whose value is three numbers; `normal` has no meaningful value of its own. */
export const VECTOR_CHANNELS: ReadonlySet<ChannelName> = new Set([...COLOUR_CHANNELS, 'normal']);

/** Names of the Color Interop Forum's texture colour spaces. */
export const COLOUR_SPACES = [
  'srgb_rec709_scene',
  'g22_rec709_scene',
  'g18_rec709_scene',
  'lin_rec709_scene',
  'lin_p3d65_scene',
  'srgb_p3d65_scene',
  'lin_rec2020_scene',
  'lin_adobergb_scene',
  'g22_adobergb_scene',
  'lin_ap1_scene',
  'g22_ap1_scene',
  'srgb_ap1_scene',
  'lin_ap0_scene',
  'lin_ciexyzd65_scene',
  'data',
  'unknown',
] as const;
/** The space that the numbers of an image are in; `raw` for data. */
export type ColourSpace = (typeof COLOUR_SPACES)[number];

/**
 * Which numbers of a pixel are read: three for colours and directions, else one, or their Rec.709 luminance.
 */
export const COMPONENTS = ['rgb', 'r', 'g', 'b', 'a', 'luminance'] as const;
/** One of {@link COMPONENTS}. */
export type Component = (typeof COMPONENTS)[number];

/** Red, green and blue; linear Rec.709 unless said otherwise. */
export type Rgb = [number, number, number];
/** What lies outside 0..1 of an image. */
export type WrapMode = 'repeat' | 'clamp' | 'mirror';
/** Whether green of a normal map points up in the image (Y+, as in glTF) or down (Y-). */
export type NormalDirection = 'Y+' | 'Y-';

/** uv' = rotate(uv * scale, rotation) + offset; rotation in radians, counter-clockwise. */
export interface UvTransform {
  offset: [number, number];
  scale: [number, number];
  rotation: number;
}

/** How a channel reads an image; see `mapUse.ts` for what becomes of a stored number. */
export interface MapUse {
  /** Key of an image of the document (see {@link ImageEntry}). */
  image: string;
  component: Component;
  space: ColourSpace;
  /**
   * Whether the file says nothing of the space (`unstated`), or an edit has settled it; absent where the file
   * states it.
   */
  spaceFrom?: 'unstated' | 'edit';
  invert: boolean;
  gain: number;
  offset: number;
  /** Name of the UV set, or null for the mesh's first. */
  uvSet: string | null;
  /** The file connects no UVs, so that by its format one texel is shown; read as the first set all the same. */
  unplaced?: true;
  transform: UvTransform | null;
  wrap: [WrapMode, WrapMode];
  /** Which way green points; only meaningful for `normal`. */
  normalY: NormalDirection;
  /** Stored numbers are raised to this before the tag's own curve; absent means 1. Only for colours. */
  exponent?: number;
  /** How the vectors of a normal map are mended; absent means not at all. */
  repair?: NormalRepair;
  /** How strong a normal map is: x and y of its vectors times this; absent means 1. */
  strength?: number;
  /** How stored numbers of a normal map become vectors; absent means the usual way, 2x - 1. */
  range?: NormalRange;
  /** Texels are taken one by one, as palettes want it; absent means smoothly. */
  filter?: 'nearest';
  /** Its light is cut to 0..1 on its way to a destination, before the value multiplies it; absent means not. */
  cut?: boolean;
}

/** A vector is `scale` times the stored numbers plus `bias`, then brought to length 1. */
export interface NormalRange {
  scale: [number, number, number];
  bias: [number, number, number];
}

/** `unit`: vectors are brought to length 1; `blue`: z is made anew from x and y. */
export type NormalRepair = 'unit' | 'blue';

/** Where a decision came from, in words that a person can check. */
export interface Provenance {
  from: 'file' | 'rule' | 'evidence' | 'hand';
  detail: string;
  /** The rule that made it, and the rulebook that it stands in. */
  rule?: { rulebook: string; rule: string };
}

/** One channel of a material: a value, a map, or both. */
export interface Channel {
  /** Linear value in the channel's own range; a map multiplies it where the format says so. */
  value: number | Rgb;
  map: MapUse | null;
  source: Provenance;
}

/**
 * How a material says its reflections: by metalness and roughness, by specular colour and glossiness, or by
 * classic specular colour and exponent.
 */
export type Workflow = 'metalRough' | 'specGloss' | 'legacy';
/** What opacity does: nothing, cut at a threshold, or blend; as in glTF. */
export const ALPHA_MODES = ['opaque', 'mask', 'blend'] as const;
/** One of {@link ALPHA_MODES}. */
export type AlphaMode = (typeof ALPHA_MODES)[number];

/** A material as its file states it. */
export interface Material {
  /** Stable key: the name with an occurrence number where it repeats. */
  key: string;
  name: string;
  workflow: Workflow;
  channels: Partial<Record<ChannelName, Channel>>;
  alphaMode: AlphaMode;
  /** In 0..1; read only in mode `mask`. */
  alphaCutoff: number;
  doubleSided: boolean;
  /**
   * Whether colours of points multiply the base colour (`shown`) or are something else (`passed`); absent where
   * the file does not say (see {@link showsColours}).
   */
  colours?: 'shown' | 'passed';
  /** Of glass that is a solid body: how thick it is, in scene units; absent for thin walls. */
  thickness?: number;
  /** Specular exponent (Ns) of a legacy material, or null. */
  exponent: number | null;
  /** Properties the reader kept without understanding them, as text. */
  extras: Record<string, string>;
}

/** An image as the model refers to it. */
export interface ImageEntry {
  /** Stable key: the written path, or `parcel:` and a path for an image picked by a person. */
  key: string;
  /** The path as the model wrote it. */
  written: string;
  /** A second, relative path where the format writes one. */
  relative: string | null;
  /** Content carried inside the model file. */
  embedded: Uint8Array | null;
}

/**
 * Whether colours of points are seen. Where nothing is said of them they stand for the base colour, unless that
 * has an image: beside one they are mostly masks.
 */
export function showsColours({ colours, channels }: Pick<Material, 'colours' | 'channels'>): boolean {
  return colours ? colours === 'shown' : !channels.baseColor?.map;
}

/** Says whether a material shows colours of points, where that is not what is usual for it. */
export function sayColours(material: Material, shown: boolean): void {
  delete material.colours;
  if (showsColours(material) !== shown) material.colours = shown ? 'shown' : 'passed';
}

/** An opaque material without channels. */
export function createMaterial(name: string, workflow: Workflow): Material {
  return {
    key: name,
    name,
    workflow,
    channels: {},
    alphaMode: 'opaque',
    alphaCutoff: 0.5,
    doubleSided: false,
    exponent: null,
    extras: {},
  };
}

/** The colour space an 8-bit image should be read in for a channel, until evidence says otherwise. */
export function defaultSpace(channel: ChannelName): ColourSpace {
  return COLOUR_CHANNELS.has(channel) ? 'srgb_rec709_scene' : 'data';
}

/** The component a channel reads from an image made for it alone. */
export function defaultComponent(channel: ChannelName): Component {
  return VECTOR_CHANNELS.has(channel) ? 'rgb' : 'r';
}

/** A map in a slot, read as is usual for the channel unless the overrides say otherwise. */
export function createMapUse(image: string, channel: ChannelName, overrides: Partial<MapUse> = {}): MapUse {
  return {
    image,
    component: defaultComponent(channel),
    space: defaultSpace(channel),
    invert: false,
    gain: 1,
    offset: 0,
    uvSet: null,
    transform: null,
    wrap: ['repeat', 'repeat'],
    normalY: 'Y+',
    ...overrides,
  };
}

/** The value a channel has when nothing sets it. White and 1 are neutral under a map. */
export function neutralValue(channel: ChannelName): number | Rgb {
  switch (channel) {
    case 'baseColor':
    case 'specularColor':
      return [1, 1, 1];
    case 'emission':
    case 'sheenColor':
    case 'subsurface':
      return [0, 0, 0];
    case 'normal':
      return [0, 0, 1];
    case 'roughness':
    case 'occlusion':
    case 'opacity':
    case 'specular':
      return 1;
    case 'ior':
      return 1.5;
    default:
      return 0;
  }
}

/** Whether a value says more than leaving the channel out. */
export function saysMore(channel: ChannelName, value: number | Rgb): boolean {
  return JSON.stringify(value) !== JSON.stringify(neutralValue(channel));
}

const SHARES: ReadonlySet<ChannelName> = new Set([
  'metalness',
  'roughness',
  'glossiness',
  'opacity',
  'occlusion',
  'coat',
  'coatRoughness',
  'transmission',
]);
const SIGNED: ReadonlySet<ChannelName> = new Set(['height', 'bump', 'normal']);
const MOST_VALUE = 1e6;

/**
 * Least and most that a value of the channel may be: shares lie in 0..1, light and indices have no sign,
 * displacements may.
 */
export function rangeOfChannel(channel: ChannelName): readonly [number, number] {
  if (SHARES.has(channel)) return [0, 1];
  return SIGNED.has(channel) ? [-MOST_VALUE, MOST_VALUE] : [0, MOST_VALUE];
}

/** The value that leaves a map unchanged when it multiplies it. */
export function unitValue(channel: ChannelName): number | Rgb {
  return VECTOR_CHANNELS.has(channel) ? [1, 1, 1] : 1;
}

/** Makes keys unique in place by adding an occurrence number: `Paint`, `Paint (2)`. */
export function assignKeys(materials: Material[]): void {
  const seen = new Map<string, number>();
  for (const material of materials) {
    const count = (seen.get(material.name) ?? 0) + 1;
    seen.set(material.name, count);
    material.key = count === 1 ? material.name : `${material.name} (${count})`;
  }
}

/** A material whose maps read images by other keys; those that are not named keep theirs. */
export function withImageKeys(material: Material, keys: ReadonlyMap<string, string>): Material {
  const channels = Object.entries(material.channels).map(([name, channel]) => {
    const key = channel.map && keys.get(channel.map.image);
    return [
      name,
      channel.map && key !== undefined ? { ...channel, map: { ...channel.map, image: key } } : channel,
    ];
  });
  return { ...material, channels: Object.fromEntries(channels) };
}

/** A value as one number; of a colour the mean of its three components. */
export function scalarValue(value: number | Rgb): number {
  return typeof value === 'number' ? value : (value[0] + value[1] + value[2]) / 3;
}

/** A value as linear colour; a number is taken as a grey. */
export function colourValue(value: number | Rgb): Rgb {
  return typeof value === 'number' ? [value, value, value] : value;
}
