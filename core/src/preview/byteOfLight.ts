import { encodeSrgb } from '../scene/transfer.ts';

/** Light in so many steps is at most one byte off; what each byte begins with settles it. */
const STEPS = 4096;
const GUESSES = Uint8Array.from({ length: STEPS + 1 }, (_, i) => Math.round(encodeSrgb(i / STEPS) * 255));
/**
 * Bytes change where the curve passes the middle between two; the curve's inverse is close enough to find the
 * place.
 */
const BEGINS = Float64Array.from({ length: 256 }, (_, byte) =>
  byte === 0 ? -Infinity : lightOf((byte - 0.5) / 255),
);

/** Light in 0..1 as a byte under sRGB's curve, without a power for each; what is brighter is 255. */
export function byteOfLight(light: number): number {
  if (!(light > 0)) return 0;
  if (light >= 1) return 255;
  let byte = GUESSES[Math.floor(light * STEPS)];
  while (byte < 255 && light >= BEGINS[byte + 1]) byte += 1;
  while (light < BEGINS[byte]) byte -= 1;
  return byte;
}

function lightOf(encoded: number): number {
  return encoded <= 0.04045 ? encoded / 12.92 : ((encoded + 0.055) / 1.055) ** 2.4;
}
