import { convertColour, isColourSpace } from '../colour/spaces.ts';
import { readStored } from '../scene/mapUse.ts';
import {
  type Channel,
  type ChannelName,
  COLOUR_CHANNELS,
  type Component,
  type MapUse,
  type Rgb,
  VECTOR_CHANNELS,
} from '../scene/material.ts';
import { constantOf, type PixelFacts } from './pixelFacts.ts';

/** What an image of one colour says as a plain value. */
export interface ConstantValue {
  /**
   * What the channel's value becomes, linear Rec.709 for colours; null where the slot does nothing and may be
   * empty.
   */
  value: Channel['value'] | null;
  words: string;
  evidence: string;
}

/** How far a flat normal map may be from (0.5, 0.5, 1): two 8-bit codes. */
const FLAT = 2.01 / 255;
/** Bytes per pixel on a graphics card, uncompressed, with all smaller levels. */
const SHOWN_BYTES = (4 * 4) / 3;

/** The value that a slot reads from its image everywhere, or null when it varies. */
export function constantValue(
  channel: ChannelName,
  { value, map }: Channel,
  facts: PixelFacts,
): ConstantValue | null {
  if (!map) return null;
  const stored = storedConstant(map, facts, VECTOR_CHANNELS.has(channel));
  if (!stored) return null;
  const evidence = `every pixel is ${stored.map((component) => component.toFixed(3)).join(' ')}`;
  if (channel === 'normal') {
    const flat = Math.abs(stored[0] - 0.5) <= FLAT && Math.abs(stored[1] - 0.5) <= FLAT;
    return flat ? { value: null, words: 'flat', evidence } : null;
  }
  const read = stored.map((component) => readStored(map, component));
  if (COLOUR_CHANNELS.has(channel)) {
    const light = linear(read as Rgb, map);
    const factor = typeof value === 'number' ? [value, value, value] : value;
    const result = light.map((component, i) => component * factor[i]) as Rgb;
    return { value: result, words: result.map((component) => component.toFixed(3)).join(' '), evidence };
  }
  const [scalar] = read;
  if (channel === 'occlusion') return scalar >= 1 - FLAT ? { value: null, words: '1', evidence } : null;
  const result = scalar * (typeof value === 'number' ? value : value[0]);
  return { value: result, words: result.toFixed(3), evidence };
}

function storedConstant({ component }: MapUse, facts: PixelFacts, vector: boolean): number[] | null {
  const colours = facts.components >= 3;
  const entryAt = (index: number) => constantOf(facts, colours ? index : 0);
  const required = partsRead(component, vector);
  const values = required.map(entryAt);
  if (values.some((value) => value === null)) return null;
  const numbers = values as number[];
  return component === 'luminance'
    ? [0.2126 * numbers[0] + 0.7152 * numbers[1] + 0.0722 * numbers[2]]
    : numbers;
}

function partsRead(component: Component, vector: boolean) {
  if (component === 'rgb' && vector) return [0, 1, 2];
  return component === 'luminance' ? [0, 1, 2] : [Math.max(0, 'rgb'.indexOf(component))];
}

function linear(colour: Rgb, { space, exponent = 1 }: MapUse): Rgb {
  if (!isColourSpace(space)) return colour;
  const prepared = colour.map((component) => Math.sign(component) * Math.abs(component) ** exponent);
  return convertColour(prepared, space, 'lin_rec709_scene');
}

/** What an image takes on a graphics card, in words. */
export function memoryOf({ width, height }: Pick<PixelFacts, 'width' | 'height'>): string {
  const bytes = width * height * SHOWN_BYTES;
  return bytes >= 1e6 ? `${(bytes / 1e6).toFixed(1)} MB` : `${Math.max(1, Math.round(bytes / 1e3))} kB`;
}
