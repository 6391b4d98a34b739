import type { PixelBuffer } from '../images/pixelBuffer.ts';
import { type ChannelName, COLOUR_CHANNELS, type MapUse, type Rgb } from '../scene/material.ts';
import { transformUv } from '../scene/uvTransform.ts';
import type { RecipeInput } from './recipes/recipe.ts';
import { colourReader, scalarReader } from './recipes/rows.ts';

const ONE = { width: 1, height: 1 };

/**
 * What a channel is at one pixel: value times map, as a shader reads it. Colours are linear Rec.709; a normal
 * is the stored vector; all else is one number. `pixels` is a single pixel of the map's image, or null
 * without a map.
 */
export function sampleChannel(channel: ChannelName, input: RecipeInput): number | Rgb {
  if (channel === 'normal') {
    const stored = input.map && {
      ...input,
      value: 1,
      map: { ...input.map, space: 'data' as const, component: 'rgb' as const },
    };
    return stored ? readColour(stored) : [0.5, 0.5, 1];
  }
  if (COLOUR_CHANNELS.has(channel)) return readColour(input);
  const out = new Float64Array(1);
  scalarReader(input, ONE)(0, out);
  return out[0];
}

function readColour(input: RecipeInput): Rgb {
  const out = new Float64Array(3);
  colourReader(input, ONE)(0, out);
  return [out[0], out[1], out[2]];
}

/**
 * Where a use reads an image at a place of the UV plane, v upwards: the tile, and the pixel from the top
 * left.
 */
export function pixelOf(
  [u, v]: readonly [number, number],
  { transform, wrap }: MapUse,
  { width, height }: { width: number; height: number },
  tiled = false,
): {
  tile: number | null;
  x: number;
  y: number;
} {
  const [x, y] = transformUv(transform, u, v);
  const tile = tiled
    ? 1001 + Math.min(9, Math.max(0, Math.floor(x))) + 10 * Math.max(0, Math.floor(y))
    : null;
  const across = tiled ? x - Math.floor(x) : wrapped(x, wrap[0]);
  const up = tiled ? y - Math.floor(y) : wrapped(y, wrap[1]);
  return {
    tile,
    x: Math.min(width - 1, Math.floor(across * width)),
    y: Math.min(height - 1, Math.floor((1 - up) * height)),
  };
}

function wrapped(value: number, mode: MapUse['wrap'][number]): number {
  if (mode === 'clamp') return Math.min(1, Math.max(0, value));
  const whole = Math.floor(value);
  const fraction = value - whole;
  return mode === 'mirror' && Math.abs(whole % 2) === 1 ? 1 - fraction : fraction;
}

/** A single pixel as an image, from components in 0..1 (or floats as stored). */
export function singlePixel(components: readonly number[]): PixelBuffer {
  return { width: 1, height: 1, components: components.length, data: Float32Array.from(components) };
}
