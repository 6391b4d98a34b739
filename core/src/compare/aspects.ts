import { dielectricOf, tintedDielectric, toMetalRough } from '../materials/metalRough.ts';
import { shadingModelOf } from '../materials/shadingModel.ts';
import {
  CHANNELS,
  type ChannelName,
  colourValue,
  type Material,
  neutralValue,
  scalarValue,
  VECTOR_CHANNELS,
} from '../scene/material.ts';
import {
  type Decoder,
  type Field,
  type FieldInput,
  fieldOf,
  fitField,
  type Place,
  type Reading,
} from './channelField.ts';

/** What kind of number a channel is, which decides on its tolerance. */
export type AspectKind = 'colour' | 'number' | 'normal' | 'length';

/** One thing that two readings of a material can agree or differ in. */
export interface Aspect {
  id: ChannelName | 'diffuse' | 'reflectance' | 'highlight';
  title: string;
  kind: AspectKind;
  /** Channels that it is made of; a channel alone stands for itself. */
  channels: readonly ChannelName[];
}

const MIXED: Aspect[] = [
  { id: 'diffuse', title: 'diffuse', kind: 'colour', channels: ['baseColor', 'metalness'] },
  {
    id: 'reflectance',
    title: 'reflectance',
    kind: 'colour',
    channels: ['baseColor', 'metalness', 'specularColor', 'specular'],
  },
];

/** Classic materials have a colour of the highlight and a strength; files put it into either. */
const HIGHLIGHT: Aspect = {
  id: 'highlight',
  title: 'highlight',
  kind: 'colour',
  channels: ['specular', 'specularColor'],
};
const HIGHLIGHT_CHANNELS: ReadonlySet<ChannelName> = new Set(['specular', 'specularColor']);

const TINTING = ['specularColor', 'specular'] as const;

/** Channels of one shading model that the other says in other words. */
const MODEL_CHANNELS: ReadonlySet<ChannelName> = new Set([
  'baseColor',
  'metalness',
  'specular',
  'specularColor',
  'ior',
]);
/** What means another thing in a legacy material: the strength of a highlight, not a reflectance. */
const NOT_LEGACY: ReadonlySet<ChannelName> = new Set(['specular', 'specularColor', 'ior']);

/**
 * What to compare of two materials: every channel that either has. Between metal/rough and spec/gloss the
 * colours are compared as diffuse and reflectance, which both can say. Glossiness counts as roughness.
 */
export function aspectsOf(a: Material, b: Material): Aspect[] {
  const both = [a, b];
  const models = new Set(both.map(shadingModelOf));
  const mixed = models.has('specGloss') && models.has('metalRough');
  const legacy = models.has('legacy') && models.size > 1;
  const used = new Set(both.flatMap(({ channels }) => Object.keys(channels) as ChannelName[]));
  used.delete('glossiness');
  used.add('roughness');
  // A classic specular colour without an image stands beside metal/rough channels for classic readers; shading
  // takes none of it.
  const spare =
    models.size === 1 &&
    models.has('metalRough') &&
    both.some(({ workflow }) => workflow !== 'metalRough') &&
    both.every(({ channels }) => !channels.specularColor?.map);
  const classic = models.size === 1 && models.has('legacy');
  const shines = classic && HIGHLIGHT.channels.some((channel) => used.has(channel));
  const plain = CHANNELS.filter(
    (channel) =>
      used.has(channel) &&
      !(mixed && MODEL_CHANNELS.has(channel)) &&
      !(legacy && NOT_LEGACY.has(channel) && !isColourOfBoth(channel, both, models)) &&
      !(spare && channel === 'specularColor') &&
      !(classic && HIGHLIGHT_CHANNELS.has(channel)),
  );
  return [
    ...(mixed ? MIXED : []),
    ...(shines ? [HIGHLIGHT] : []),
    ...plain.map(
      (channel): Aspect => ({ id: channel, title: channel, kind: kindOf(channel), channels: [channel] }),
    ),
  ];
}

/** Classic colours are spec/gloss as they stand. */
function isColourOfBoth(
  channel: ChannelName,
  both: readonly Material[],
  models: ReadonlySet<string>,
): boolean {
  return (
    channel === 'specularColor' &&
    models.has('specGloss') &&
    both.every(({ channels }) => channels.specularColor !== undefined)
  );
}

function kindOf(channel: ChannelName): AspectKind {
  if (channel === 'normal') return 'normal';
  if (channel === 'height') return 'length';
  return VECTOR_CHANNELS.has(channel) ? 'colour' : 'number';
}

/** A material with its images at hand. */
export interface DecodedSide {
  material: Material;
  reading: Reading;
  decoder: Decoder;
}

/** What an aspect is all over a material's image. */
export async function aspectField(aspect: Aspect, side: DecodedSide, place: Place): Promise<Field> {
  const { material, reading } = side;
  const field = (channel: ChannelName) => fieldOf(channel, inputOf(channel, material), side, place);
  if (aspect.id === 'diffuse' || aspect.id === 'reflectance') return mixedField(aspect.id, material, field);
  if (aspect.id === 'highlight') return highlightField(material, field);
  const ownField = await field(aspect.id);
  if (aspect.kind === 'length')
    return { ...ownField, values: ownField.values.map((value) => value * reading.metresPerUnit) };
  return ownField;
}

/** Images that an aspect reads. */
export function usesOf(aspect: Aspect, material: Material): FieldInput[] {
  return aspect.channels.map((channel) => inputOf(channel, material)).filter(({ map }) => map !== null);
}

/** Colour times strength; black where a file says neither. */
async function highlightField(
  { channels }: Material,
  field: (channel: ChannelName) => Promise<Field>,
): Promise<Field> {
  const [colour, strength] = [channels.specularColor, channels.specular];
  if (!colour && !strength) return { width: 1, height: 1, size: 3, values: new Float32Array(3) };
  const [tint, share] = [await field('specularColor'), strength ? await field('specular') : null];
  if (!share) return tint;
  const [width, height] = [Math.max(tint.width, share.width), Math.max(tint.height, share.height)];
  const [a, s] = [fitField(tint, width, height), fitField(share, width, height)];
  return { width, height, size: 3, values: a.values.map((value, i) => value * s.values[Math.floor(i / 3)]) };
}

/**
 * Diffuse and reflectance: base x (1 - metalness) and mix(0.04, base, metalness), or what spec/gloss says
 * outright.
 */
async function mixedField(
  id: 'diffuse' | 'reflectance',
  material: Material,
  field: (channel: ChannelName) => Promise<Field>,
): Promise<Field> {
  if (shadingModelOf(material) !== 'metalRough')
    return field(id === 'diffuse' ? 'baseColor' : 'specularColor');
  const isTinted = id === 'reflectance' && material.workflow === 'metalRough';
  const taken: ChannelName[] = ['baseColor', 'metalness', ...(isTinted ? TINTING : [])];
  const fields = await Promise.all(taken.map(field));
  const [width, height] = [
    Math.max(...fields.map((one) => one.width)),
    Math.max(...fields.map((one) => one.height)),
  ];
  const [base, metal, tint, weight] = fields.map((one) => fitField(one, width, height).values);
  const byIndex = dielectricOf(material);
  const values = base.map((value, i) => {
    const place = Math.floor(i / 3);
    const share = metal[place];
    if (id === 'diffuse') return value * (1 - share);
    const dielectric = isTinted ? tintedDielectric(byIndex, tint[i], weight[place]) : byIndex;
    return dielectric * (1 - share) + value * share;
  });
  return { width, height, size: 3, values };
}

function inputOf(channel: ChannelName, material: Material): FieldInput {
  const shading = toMetalRough(material);
  if (channel === 'roughness') return shading.roughness;
  if (channel === 'opacity' && material.alphaMode === 'opaque') return { value: 1, map: null };
  const existing = material.channels[channel];
  // Heights, bumps and occlusion say nothing without their map.
  if ((channel === 'height' || channel === 'bump') && !existing?.map) return { value: 0, map: null };
  if (channel === 'occlusion') return { value: 1, map: existing?.map ?? null };
  const value = existing?.value ?? neutralValue(channel);
  return {
    value: VECTOR_CHANNELS.has(channel) ? colourValue(value) : scalarValue(value),
    map: existing?.map ?? null,
  };
}
