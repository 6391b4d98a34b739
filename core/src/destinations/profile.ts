import Joi from 'joi';
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

/** One component of an output image: which channel feeds it, or a constant where the channel has no map. */
export interface ComponentRecipe {
  channel: ChannelName;
  /** Which of the channel's three numbers, for colours and normals; 0 for scalars. */
  part: 0 | 1 | 2;
  /** What stands where the channel has no map; the material's value is then written as a factor. */
  empty: number;
  /** The channel that the receiver takes it for, where that is another one: inverted roughness as specular intensity. */
  as?: ChannelName;
}

export type MapType = 'png' | 'tga' | 'tiff' | 'exr';
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

export type DestinationFormat = 'gltf' | 'fbx' | 'obj' | 'usd';

/** How one kind of receiving application wants things. Plain JSON, checked by {@link parseProfile}. */
export interface Destination {
  /** Version of this shape. */
  profile: 1;
  id: string;
  title: string;
  summary: string;
  format: DestinationFormat;
  /** Extensions of the model that it takes, the first unless told. */
  variants: readonly string[];
  upAxis: 'Y' | 'Z';
  metresPerUnit: number;
  triangulate: boolean;
  /** The shading model that channels are brought to first, pixels included. */
  workflow: Workflow;
  /** What the written materials call themselves; the same unless told. */
  writeAs?: Workflow;
  normalY: NormalDirection;
  maps: OutputMap[];
  /** Folder of the maps beside the model; '' for none. */
  folder: string;
  /** Before and after the name of each material's maps. */
  prefix: string;
  /** Colour factors go into the pixels, so that the receiver sees white. */
  whiteFactors: boolean;
  /** Maps in tiles go out tile by tile; else only the first has a place. */
  tiles: boolean;
  /** Longest side of an image; 0 for any. */
  maxSize: number;
  /** What the receiver must set by hand, since the format cannot say it. */
  notes: string[];
}

const component = Joi.object({
  channel: Joi.string()
    .valid(...CHANNELS)
    .required(),
  part: Joi.number().valid(0, 1, 2).required(),
  empty: Joi.number().required(),
  as: Joi.string().valid(...CHANNELS),
});

const name = Joi.string().trim().min(1).max(60);

const SCHEMA = Joi.object<Destination>({
  profile: Joi.number().valid(1).required(),
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
  triangulate: Joi.boolean().required(),
  workflow: Joi.string().valid('metalRough', 'specGloss', 'legacy').required(),
  writeAs: Joi.string().valid('metalRough', 'specGloss', 'legacy'),
  normalY: Joi.string().valid('Y+', 'Y-').required(),
  maps: Joi.array()
    .items(
      Joi.object({
        name: name.required(),
        suffix: name.pattern(/^[A-Za-z0-9_-]+$/).required(),
        space: Joi.string()
          .valid(...COLOUR_SPACES)
          .required(),
        type: Joi.string().valid('png', 'tga', 'tiff', 'exr').required(),
        depth: Joi.valid(8, 16, 'half', 'float').required(),
        components: Joi.array().items(component).min(1).max(4).required(),
        alpha: component.allow(null).required(),
      }),
    )
    .unique('suffix')
    .required(),
  folder: Joi.string()
    .allow('')
    .pattern(/^[A-Za-z0-9_-]*$/)
    .required(),
  prefix: Joi.string()
    .allow('')
    .pattern(/^[A-Za-z0-9_-]*$/)
    .required(),
  whiteFactors: Joi.boolean().required(),
  tiles: Joi.boolean().required(),
  maxSize: Joi.number().integer().min(0).max(16_384).required(),
  notes: Joi.array().items(Joi.string().max(400)).required(),
});

/** Which depths a type can hold. */
const DEPTHS: Record<MapType, readonly MapDepth[]> = { png: [8, 16], tga: [8], tiff: [8, 16, 'float'], exr: ['half', 'float'] };

/** Checks a profile from outside. Throws `profile.invalid` naming the field that is wrong. */
export function parseProfile(input: unknown): Destination {
  const { error, value } = SCHEMA.validate(input);
  if (error) throw new KinkajouError('profile.invalid', `the profile is not valid: ${error.message}`);
  for (const { suffix, type, depth, components, alpha } of value.maps) {
    if (!DEPTHS[type].includes(depth)) throw new KinkajouError('profile.invalid', `the map "${suffix}" is ${type}, which holds no ${depth} bits`);
    if (components.length + (alpha ? 1 : 0) > 4) throw new KinkajouError('profile.invalid', `the map "${suffix}" has more than four components`);
  }
  const wrong = value.variants.find((variant: string) => !VARIANTS[value.format as DestinationFormat].includes(variant));
  if (wrong) throw new KinkajouError('profile.invalid', `${value.format} has no variant ${wrong}`);
  return value;
}

const VARIANTS: Record<DestinationFormat, readonly string[]> = { gltf: ['glb', 'gltf'], fbx: ['fbx'], obj: ['obj'], usd: ['usda', 'usdc', 'usdz'] };

/** One number of a channel. */
export function scalar(channel: ChannelName, as?: ChannelName): ComponentRecipe {
  return { channel, part: 0, empty: 1, ...(as ? { as } : {}) };
}

/** The three numbers of a colour or a normal. */
export function triple(channel: ChannelName): ComponentRecipe[] {
  return ([0, 1, 2] as const).map((part) => ({ channel, part, empty: 1 }));
}

/** A map as most destinations want it: 8-bit PNG. */
export function outputMap(name: string, suffix: string, components: ComponentRecipe[], more: Partial<OutputMap> = {}): OutputMap {
  return { name, suffix, space: 'data', type: 'png', depth: 8, components, alpha: null, ...more };
}

export const SRGB: Partial<OutputMap> = { space: 'srgb_rec709_scene' };

/** One image per channel, named after it; colours and data as given. */
export function perChannel(channels: readonly ChannelName[], colour: Partial<OutputMap> = SRGB, data: Partial<OutputMap> = {}): OutputMap[] {
  return channels.map((channel) => {
    const parts = VECTOR_CHANNELS.has(channel) ? triple(channel) : [scalar(channel)];
    return outputMap(channel, channel.toLowerCase(), parts, COLOUR_CHANNELS.has(channel) ? colour : data);
  });
}
