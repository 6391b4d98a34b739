/**
 * sRGB decoding, IEC 61966-2-1: piecewise, threshold 0.04045, slope 12.92, exponent 2.4. Odd-symmetric below
 * 0.
 */
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
