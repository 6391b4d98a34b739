import type { PixelArray, PixelBuffer } from '../images/pixelBuffer.ts';
import { unitOf } from '../images/pixelBuffer.ts';
import type { ColourSpace } from '../scene/material.ts';
import { conversionOf, spaceDefinition } from './spaces.ts';

/** Bits of a component. */
export type PixelDepth = 8 | 16 | 'float';

/** How an image is carried from one space to another. */
export interface ConvertOptions {
  /** Depth of the result. Floats stay floats unless told; integers go to floats when the target is linear. */
  depth?: PixelDepth;
  /** Stored numbers are raised to this before the source's own curve; 1 leaves them. */
  exponent?: number;
}

/** What a conversion could not keep. */
export interface ConvertReport {
  /** Share of pixels, in 0..1, with a component below 0: colours that the target's primaries cannot make. */
  outOfGamut: number;
  /** Share of pixels with a component that was cut to 0..1, since integers hold no more. */
  clipped: number;
}

/** Below this a negative number is taken for rounding. */
const GAMUT_SLACK = 1e-4;
/**
 * Steps of the table from light to 8-bit codes: under a twentieth of a code where the sRGB curve is steepest.
 */
const ENCODE_STEPS = 65_535;

/**
 * Converts pixels between two colour spaces. Alpha stays as it is; grey pixels keep being grey, since white
 * goes to white. Integers are decoded by a table with one entry per code, and 8-bit results encoded by a
 * table; floats go through the curves and the matrix themselves. Throws `colour.space` for `data` and
 * `unknown`.
 */
export function convertPixels(
  buffer: PixelBuffer,
  from: ColourSpace,
  to: ColourSpace,
  options: ConvertOptions = {},
): { buffer: PixelBuffer; report: ConvertReport } {
  const { width, height, components, data } = buffer;
  const { exponent = 1 } = options;
  const depth = options.depth ?? defaultDepth(data, to);
  const { decode, matrix, encode } = conversionOf(from, to);
  const prepared =
    exponent === 1 ? decode : (value: number) => decode(Math.sign(value) * Math.abs(value) ** exponent);
  const read = decoderFor(data, prepared);
  const out = allocate(depth, data.length);
  const write = encoderFor(depth, encode);
  const colours = components < 3 ? 1 : 3;
  const alpha = components === 2 || components === 4 ? components - 1 : -1;
  const alphaScale = unitOf(out) / unitOf(data);
  let outOfGamut = 0;
  let clipped = 0;
  const integer = depth !== 'float';
  const light = [0, 0, 0];
  for (let index = 0; index < data.length; index += components) {
    let below = false;
    let cut = false;
    for (let k = 0; k < colours; k += 1) light[k] = read(data[index + k]);
    if (matrix && colours === 3) {
      const [r, g, b] = light;
      light[0] = matrix[0] * r + matrix[1] * g + matrix[2] * b;
      light[1] = matrix[3] * r + matrix[4] * g + matrix[5] * b;
      light[2] = matrix[6] * r + matrix[7] * g + matrix[8] * b;
    }
    for (let k = 0; k < colours; k += 1) {
      const value = light[k];
      if (value < -GAMUT_SLACK) below = true;
      if (integer && (value < -GAMUT_SLACK || value > 1 + GAMUT_SLACK)) cut = true;
      out[index + k] = write(value);
    }
    if (alpha >= 0)
      out[index + alpha] = integer
        ? Math.round(data[index + alpha] * alphaScale)
        : data[index + alpha] * alphaScale;
    if (below) outOfGamut += 1;
    if (cut) clipped += 1;
  }
  const pixels = Math.max(1, width * height);
  return {
    buffer: { width, height, components, data: out },
    report: { outOfGamut: outOfGamut / pixels, clipped: clipped / pixels },
  };
}

function defaultDepth(data: PixelArray, to: ColourSpace): PixelDepth {
  if (data instanceof Float32Array || spaceDefinition(to).transfer.linear) return 'float';
  return data instanceof Uint8Array ? 8 : 16;
}

function allocate(depth: PixelDepth, length: number): PixelArray {
  if (depth === 'float') return new Float32Array(length);
  return depth === 8 ? new Uint8Array(length) : new Uint16Array(length);
}

function decoderFor(data: PixelArray, decode: (value: number) => number): (stored: number) => number {
  if (data instanceof Float32Array) return decode;
  const unit = unitOf(data);
  const table = Float64Array.from({ length: unit + 1 }, (_, code) => decode(code / unit));
  return (stored) => table[stored];
}

function encoderFor(depth: PixelDepth, encode: (value: number) => number): (value: number) => number {
  if (depth === 'float') return encode;
  const clamp = (value: number) => Math.min(1, Math.max(0, value));
  if (depth === 16) return (value) => Math.round(clamp(encode(clamp(value))) * 65_535);
  const table = Uint8Array.from({ length: ENCODE_STEPS + 1 }, (_, i) =>
    Math.round(clamp(encode(i / ENCODE_STEPS)) * 255),
  );
  return (value) => table[Math.round(clamp(value) * ENCODE_STEPS)];
}
