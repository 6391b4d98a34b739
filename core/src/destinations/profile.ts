import Joi from 'joi';
import { DIALECT_NAMES, type DialectName } from '../colour/dialects.ts';
import { collisionFit } from '../edits/schema.ts';
import { KinkajouError } from '../errors.ts';
import {
  CHANNELS,
  type ChannelName,
  COLOUR_CHANNELS,
  COLOUR_SPACES,
  type ColourSpace,
  type NormalDirection,
  VECTOR_CHANNELS,
  type Workflow,
} from '../scene/material.ts';
import { COLLISIONS, type Collision } from '../scene/partChange.ts';
import type { StageChoice } from '../scene/stage.ts';

/** One component of an output image: which channel feeds it, or a constant where the channel has no map. */
export interface ComponentRecipe {
  channel: ChannelName;
  /** Which of the channel's three numbers, for colours and normals; 0 for scalars. */
  part: 0 | 1 | 2;
  /** What stands where the channel has no map; the material's value is then written as a factor. */
  empty: number;
  /** Written as 1 - x: opacity as transparency, roughness as a strength of reflection. */
  invert?: boolean;
  /**
   * The channel that the receiver takes it for, where that is another one: glossiness as specular intensity.
   */
  as?: ChannelName;
}

/** Types of image file that destinations can ask for. */
export const MAP_TYPES = ['png', 'tga', 'tiff', 'exr'] as const;
/** One of {@link MAP_TYPES}. */
export type MapType = (typeof MAP_TYPES)[number];
/** Integers of 8 or 16 bits, or half and single floats. */
export type MapDepth = 8 | 16 | 'half' | 'float';

/** An output image of a destination. It is made when at least one of its channels has a map. */
export interface OutputMap {
  name: string;
  suffix: string;
  space: ColourSpace;
  type: MapType;
  depth: MapDepth;
  components: ComponentRecipe[];
  /** Joins as a further component when the material is not opaque and its opacity has a map. */
  alpha: ComponentRecipe | null;
}

/** Formats that destinations can ask for. */
export type DestinationFormat = 'gltf' | 'fbx' | 'obj' | 'usd';
/** How a model is divided into files: not at all, by its top groups, by its parts, or by its materials. */
export const SPLITS = ['one', 'groups', 'nodes', 'materials'] as const;
/** What parts are to be: as they are, one for each material, or one for each solid. */
export const PART_RULES = ['kept', 'materials', 'solids'] as const;
/** What becomes of numbered tiles where a receiver has none: a material each, or one image for all. */
export const WITHOUT_TILES = ['materials', 'atlas'] as const;
/** What a person may choose where a destination leaves it open. */
export const CHOICES = ['size', 'unit', 'type'] as const;

/** Templates of names. Words in braces stand for what they say; separators that end up beside nothing go. */
export interface NameTemplates {
  /** Of model files: `{asset}`, and `{part}` where there are several. */
  file: string;
  /** Of materials: `{material}`, `{asset}`. */
  material: string;
  /** Of maps: `{material}`, `{suffix}`, `{asset}`. */
  map: string;
}

/** How one kind of receiving application wants things. Plain JSON, checked by {@link parseProfile}. */
export interface Destination {
  /** Version of this shape. */
  profile: 2;
  id: string;
  title: string;
  summary: string;
  format: DestinationFormat;
  /** Extensions of the model that it takes, the first unless told. The extension decides the format. */
  variants: readonly string[];
  upAxis: 'Y' | 'Z';
  metresPerUnit: number;
  /** Longest side of the whole in metres that it is scaled to; 0 leaves the size. */
  size: number;
  triangulate: boolean;
  /** One model file, or one per group, node or material. */
  split: (typeof SPLITS)[number];
  /** Parts as they are, cut by material, or cut into solids that each have a material of their own. */
  parts: (typeof PART_RULES)[number];
  /** The shading model that channels are brought to first, pixels included. */
  workflow: Workflow;
  /** What the written materials call themselves; the same unless told. */
  writeAs?: Workflow;
  normalY: NormalDirection;
  /** Which grey of a height map means no displacement; null leaves it as it is. */
  heightMid: 0 | 0.5 | null;
  /** In what a height's amount is told: the model's unit, metres, or shares of the longest side. */
  heightUnit: 'units' | 'metres' | 'share';
  maps: OutputMap[];
  names: NameTemplates;
  /** Folder of the maps beside the model; '' for none. */
  folder: string;
  /** A folder per material below it. */
  folderPerMaterial: boolean;
  /** Images inside the model file where the format can carry them. */
  embed: boolean;
  /** Colour factors go into the pixels, so that the receiver sees white. */
  whiteFactors: boolean;
  /** Maps in tiles go out tile by tile. */
  tiles: boolean;
  /**
   * Where tiles do not go out: one material per tile, or all tiles in one image where that fits the largest
   * side.
   */
  withoutTiles: (typeof WITHOUT_TILES)[number];
  /** Longest side of an image; 0 for any. */
  maxSize: number;
  /** Sides are brought to powers of two, downwards. */
  powerOfTwo: boolean;
  /** Palettes keep their pixels whatever the size rules say. */
  keepPalettes: boolean;
  /** Shapes for collision beside each part; `name` knows `{part}`. */
  collision: Collision & { name: string };
  /** Seconds of a turn that goes along as a clip: settled for one handoff, never by a profile. */
  turn?: number;
  /** Camera and lamps that go along, settled likewise. */
  stage?: StageChoice | null;
  /** The words in which the sheet names colour spaces. */
  dialect: DialectName;
  /** Changes the source file itself where its format is the same and the edits can be said in it. */
  patch: boolean;
  /** A MaterialX document of the same materials. */
  materialX: boolean;
  /** A table of area and volume by part and material. */
  takeoff: boolean;
  /** What a person may settle anew for each handoff. */
  choices: readonly (typeof CHOICES)[number][];
  /** What the receiver must set by hand, since the format cannot say it. */
  notes: string[];
}

/** What a destination is where its file says nothing. */
const DEFAULTS = {
  size: 0,
  triangulate: false,
  split: 'one',
  parts: 'kept',
  normalY: 'Y+',
  heightMid: null,
  heightUnit: 'units',
  names: { file: '{asset}_{part}', material: '{material}', map: '{material}_{suffix}' },
  folder: 'maps',
  folderPerMaterial: false,
  embed: false,
  whiteFactors: false,
  tiles: false,
  withoutTiles: 'materials',
  maxSize: 0,
  powerOfTwo: false,
  keepPalettes: true,
  collision: { shape: 'none', name: '{part}_collision' },
  dialect: 'plain',
  patch: false,
  materialX: false,
  takeoff: false,
  choices: [],
  notes: [],
} satisfies Partial<Destination>;

type OwnFields = Omit<Destination, keyof typeof DEFAULTS | 'profile'>;

/** A destination of what differs from the defaults. */
export function createDestination(parts: OwnFields & Partial<Destination>): Destination {
  return { ...DEFAULTS, ...parts, profile: 2 };
}

const component = Joi.object({
  channel: Joi.string()
    .valid(...CHANNELS)
    .required(),
  part: Joi.number().valid(0, 1, 2).required(),
  empty: Joi.number().required(),
  invert: Joi.boolean(),
  as: Joi.string().valid(...CHANNELS),
});

const name = Joi.string().trim().min(1).max(60);
const template = (words: RegExp) => Joi.string().trim().min(1).max(80).pattern(words);
const bool = (fallback: boolean) => Joi.boolean().default(fallback);

const SCHEMA = Joi.object<Destination>({
  profile: Joi.number().valid(2).required(),
  id: name.pattern(/^[a-z0-9-]+$/).required(),
  title: name.required(),
  summary: Joi.string().max(400).required(),
  format: Joi.string().valid('gltf', 'fbx', 'obj', 'usd').required(),
  variants: Joi.array()
    .items(Joi.string().valid('glb', 'gltf', 'fbx', 'obj', 'usda', 'usdc', 'usdz'))
    .min(1)
    .unique()
    .required(),
  upAxis: Joi.string().valid('Y', 'Z').required(),
  metresPerUnit: Joi.number().positive().max(1e6).required(),
  size: Joi.number().min(0).max(1e6).default(DEFAULTS.size),
  triangulate: Joi.boolean().required(),
  split: Joi.string()
    .valid(...SPLITS)
    .default(DEFAULTS.split),
  parts: Joi.string()
    .valid(...PART_RULES)
    .default(DEFAULTS.parts),
  workflow: Joi.string().valid('metalRough', 'specGloss', 'legacy').required(),
  writeAs: Joi.string().valid('metalRough', 'specGloss', 'legacy'),
  normalY: Joi.string().valid('Y+', 'Y-').required(),
  heightMid: Joi.valid(0, 0.5, null).default(DEFAULTS.heightMid),
  heightUnit: Joi.string().valid('units', 'metres', 'share').default(DEFAULTS.heightUnit),
  maps: Joi.array()
    .items(
      Joi.object({
        name: name.required(),
        suffix: name.pattern(/^[A-Za-z0-9_-]+$/).required(),
        space: Joi.string()
          .valid(...COLOUR_SPACES)
          .required(),
        type: Joi.string()
          .valid(...MAP_TYPES)
          .required(),
        depth: Joi.valid(8, 16, 'half', 'float').required(),
        components: Joi.array().items(component).min(1).max(4).required(),
        alpha: component.allow(null).required(),
      }),
    )
    .unique('suffix')
    .unique('name')
    .required(),
  names: Joi.object({
    file: template(
      /^(?:[A-Za-z0-9_-]|\{asset\}|\{part\})*\{asset\}(?:[A-Za-z0-9_-]|\{asset\}|\{part\})*$/,
    ).required(),
    material: template(
      /^(?:[A-Za-z0-9_-]|\{asset\}|\{material\})*\{material\}(?:[A-Za-z0-9_-]|\{asset\})*$/,
    ).required(),
    map: template(/^(?:[A-Za-z0-9_-]|\{asset\}|\{material\}|\{suffix\})*$/).required(),
  }).default(DEFAULTS.names),
  folder: Joi.string()
    .allow('')
    .pattern(/^[A-Za-z0-9_/-]*$/)
    .pattern(/^\/|\/\/|\/$/, { invert: true })
    .required(),
  folderPerMaterial: bool(DEFAULTS.folderPerMaterial),
  embed: bool(DEFAULTS.embed),
  whiteFactors: Joi.boolean().required(),
  tiles: Joi.boolean().required(),
  withoutTiles: Joi.string()
    .valid(...WITHOUT_TILES)
    .default(DEFAULTS.withoutTiles),
  maxSize: Joi.number().integer().min(0).max(16_384).required(),
  powerOfTwo: bool(DEFAULTS.powerOfTwo),
  keepPalettes: bool(DEFAULTS.keepPalettes),
  collision: Joi.object({
    shape: Joi.string()
      .valid(...COLLISIONS)
      .required(),
    ...collisionFit,
    name: template(/^[A-Za-z0-9_-]*\{part\}[A-Za-z0-9_-]*$/).required(),
  }).default(DEFAULTS.collision),
  dialect: Joi.string()
    .valid(...DIALECT_NAMES)
    .default(DEFAULTS.dialect),
  patch: bool(DEFAULTS.patch),
  materialX: bool(DEFAULTS.materialX),
  takeoff: bool(DEFAULTS.takeoff),
  choices: Joi.array()
    .items(Joi.string().valid(...CHOICES))
    .unique()
    .default(DEFAULTS.choices),
  notes: Joi.array().items(Joi.string().max(400)).required(),
});

/** Whether floats stay floats: in TIFF, in EXR, and as EXR where the destination takes it anyway. */
export function keepsFloats({ type }: Pick<OutputMap, 'type'>, { maps }: Pick<Destination, 'maps'>): boolean {
  return type === 'exr' || type === 'tiff' || maps.some((other) => other.type === 'exr');
}

/** Which depths a type can hold. */
export const DEPTHS: Record<MapType, readonly MapDepth[]> = {
  png: [8, 16],
  tga: [8],
  tiff: [8, 16, 'float'],
  exr: ['half', 'float'],
};

/**
 * Checks a profile from outside, and brings one of an earlier version to this one. Throws `profile.invalid`
 * naming the field that is wrong.
 */
export function parseProfile(input: unknown): Destination {
  const { error, value } = SCHEMA.validate(upgraded(input));
  if (error) throw invalid(`the profile is not valid: ${error.message}`);
  const destination = value as Destination;
  const { maps, variants, format, names, split } = destination;
  for (const { suffix, type, depth, components, alpha } of maps) {
    if (!DEPTHS[type].includes(depth))
      throw invalid(
        `the map "${suffix}" is ${type}, which holds no ${typeof depth === 'number' ? `${depth} bits` : depth}`,
      );
    if (components.length + (alpha ? 1 : 0) > 4)
      throw invalid(`the map "${suffix}" has more than four components`);
  }
  if (formatOf(variants[0]) !== format) throw invalid(`${format} has no variant ${variants[0]}`);
  const mixed = variants.find((variant) => (formatOf(variant) === 'gltf') !== (format === 'gltf'));
  if (mixed)
    throw invalid(`${format} has no variant ${mixed}: glTF packs maps in its own way and stands alone`);
  if (!/\{suffix\}/.test(names.map))
    throw invalid('names.map must hold {suffix}, or maps of one material would share a name');
  if (split !== 'one' && !names.file.includes('{part}'))
    throw invalid('names.file must hold {part}, since there are several files');
  if (format === 'gltf') checkGltf(destination);
  return destination;
}

/**
 * glTF says itself which maps there are, what is in them, which way normals point, and that up is Y and the
 * unit a metre.
 */
function checkGltf({ maps, upAxis, metresPerUnit, normalY, parts, workflow }: Destination): void {
  if (upAxis !== 'Y' || metresPerUnit !== 1)
    throw invalid('glTF is always Y up and in metres: set upAxis to "Y" and metresPerUnit to 1');
  if (normalY !== 'Y+') throw invalid('normals of glTF always point Y+: set normalY to "Y+"');
  if (workflow !== 'metalRough') throw invalid('glTF shades by metal/rough: set workflow to "metalRough"');
  if (parts === 'solids')
    throw invalid(
      'parts of glTF share their materials: set parts to "kept" or "materials", or take another format',
    );
  for (const { name: mapName, type, components, alpha } of maps) {
    const held = GLTF_MAPS[mapName];
    if (!held || type !== 'png')
      throw invalid(
        `glTF takes PNG maps named ${Object.keys(GLTF_MAPS).join(', ')}; "${mapName}" as ${type} is none of them`,
      );
    const reported = components
      .map(({ channel, part, invert }) => `${channel} ${part}${invert ? ' inverted' : ''}`)
      .join();
    if (reported !== held)
      throw invalid(`the components of "${mapName}" are set by glTF: ${held.replaceAll(/ \d/g, '')}`);
    if (alpha && (alpha.channel !== GLTF_ALPHA[mapName] || alpha.invert))
      throw invalid(
        `the alpha of "${mapName}" is set by glTF: ${GLTF_ALPHA[mapName] ? `${GLTF_ALPHA[mapName]}, or null` : 'null'}`,
      );
  }
}

const three = (channel: string) => [0, 1, 2].map((component) => `${channel} ${component}`).join();

/** Components of glTF's maps, channel and part each. */
const GLTF_MAPS: Record<string, string> = {
  baseColor: three('baseColor'),
  occlusionRoughnessMetalness: 'occlusion 0,roughness 0,metalness 0',
  normal: three('normal'),
  emission: three('emission'),
  transmission: 'transmission 0',
  coat: 'coat 0',
  coatRoughness: 'coatRoughness 0',
  sheenColor: three('sheenColor'),
  specularColor: three('specularColor'),
};

/** What glTF reads from the alpha of its maps. */
const GLTF_ALPHA: Record<string, ChannelName> = { baseColor: 'opacity', specularColor: 'specular' };

/** Version 1 had a prefix of maps alone. */
function upgraded(input: unknown): unknown {
  if (typeof input !== 'object' || input === null || !('profile' in input) || input.profile !== 1)
    return input;
  const { prefix = '', ...rest } = input as { prefix?: unknown };
  return { ...rest, profile: 2, names: { ...DEFAULTS.names, map: `${prefix}{material}_{suffix}` } };
}

function invalid(message: string): KinkajouError {
  return new KinkajouError('profile.invalid', message);
}

const FORMATS: Record<string, DestinationFormat> = {
  glb: 'gltf',
  gltf: 'gltf',
  fbx: 'fbx',
  obj: 'obj',
  usda: 'usd',
  usdc: 'usd',
  usdz: 'usd',
};

/** The format of a model's extension. */
export function formatOf(variant: string): DestinationFormat {
  return FORMATS[variant];
}

/** One number of a channel. */
export function scalar(channel: ChannelName, more: Partial<ComponentRecipe> = {}): ComponentRecipe {
  return { channel, part: 0, empty: 1, ...more };
}

/** The three numbers of a colour or a normal. */
export function triple(channel: ChannelName): ComponentRecipe[] {
  return ([0, 1, 2] as const).map((part) => ({ channel, part, empty: 1 }));
}

/** A map as most destinations want it: 8-bit PNG. */
export function outputMap(
  name: string,
  suffix: string,
  components: ComponentRecipe[],
  more: Partial<OutputMap> = {},
): OutputMap {
  return { name, suffix, space: 'data', type: 'png', depth: 8, components, alpha: null, ...more };
}

/** Map options of a colour image. */
export const SRGB: Partial<OutputMap> = { space: 'srgb_rec709_scene' };

/** One image per channel, named after it; colours and data as given. */
export function perChannel(
  channels: readonly ChannelName[],
  colour: Partial<OutputMap> = SRGB,
  data: Partial<OutputMap> = {},
): OutputMap[] {
  return channels.map((channel) => {
    const parts = VECTOR_CHANNELS.has(channel) ? triple(channel) : [scalar(channel)];
    return outputMap(channel, channel.toLowerCase(), parts, COLOUR_CHANNELS.has(channel) ? colour : data);
  });
}
