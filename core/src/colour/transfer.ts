import { KinkajouError } from '../errors.ts';
import type { ColourSpace } from '../scene/material.ts';

/** sRGB decoding, IEC 61966-2-1: piecewise, threshold 0.04045, slope 12.92, exponent 2.4. Odd-symmetric below 0. */
export function decodeSrgb(value: number): number {
  const x = Math.abs(value);
  const linear = x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4;
  return value < 0 ? -linear : linear;
}

/** The inverse of {@link decodeSrgb}; threshold 0.0031308. */
export function encodeSrgb(value: number): number {
  const x = Math.abs(value);
  const encoded = x <= 0.0031308 ? x * 12.92 : 1.055 * x ** (1 / 2.4) - 0.055;
  return value < 0 ? -encoded : encoded;
}

/** Stored number to linear Rec.709 light, for spaces that share its primaries; null for `data` and `unknown`. */
export function decoderOf(space: ColourSpace): ((value: number) => number) | null {
  switch (space) {
    case 'srgb_rec709_scene':
      return decodeSrgb;
    case 'g22_rec709_scene':
      return (value) => Math.sign(value) * Math.abs(value) ** 2.2;
    case 'g18_rec709_scene':
      return (value) => Math.sign(value) * Math.abs(value) ** 1.8;
    case 'lin_rec709_scene':
      return (value) => value;
    case 'data':
    case 'unknown':
      return null;
    default:
      throw new KinkajouError(
        'colour.space',
        `images tagged ${space} cannot be converted yet`,
        {},
        'Tag the image with a Rec.709 space, or convert it beforehand.',
      );
  }
}

/** Converts one stored number from a space to sRGB; images tagged `data` or `unknown` pass unchanged. */
export function toSrgb(space: ColourSpace): ((value: number) => number) | null {
  if (space === 'srgb_rec709_scene') return null;
  const decode = decoderOf(space);
  return decode && ((value) => encodeSrgb(decode(value)));
}
