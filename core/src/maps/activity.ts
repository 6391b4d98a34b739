import { type PixelBuffer, unitOf } from '../images/pixelBuffer.ts';

/** Cells along each side of an activity map. */
export const ACTIVITY = 64;
/** Samples along each side of a cell. */
const SAMPLES = 6;
/** Steps of activity; 0 is flat. */
const STEPS = 15;

/**
 * How much an image changes within each of 64 by 64 cells, as one hexadecimal digit a cell, rows from the top: 0 where
 * the cell is flat, 15 where it holds all there is. Steps are logarithmic, so that faint grain is seen beside hard edges.
 */
export function activityOf({ width, height, components, data }: PixelBuffer): string {
  const unit = unitOf(data);
  const colours = components >= 3 ? 3 : 1;
  let text = '';
  for (let row = 0; row < ACTIVITY; row += 1) {
    for (let column = 0; column < ACTIVITY; column += 1) {
      let most = 0;
      for (let k = 0; k < colours; k += 1) {
        let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
        for (let i = 0; i < SAMPLES; i += 1) {
          const y = Math.min(height - 1, Math.floor(((row + (i + 0.5) / SAMPLES) / ACTIVITY) * height));
          for (let j = 0; j < SAMPLES; j += 1) {
            const x = Math.min(width - 1, Math.floor(((column + (j + 0.5) / SAMPLES) / ACTIVITY) * width));
            const value = data[(y * width + x) * components + k];
            if (value < low) low = value;
            if (value > high) high = value;
          }
        }
        most = Math.max(most, (high - low) / unit);
      }
      text += stepOf(most).toString(16);
    }
  }
  return text;
}

/** One 8-bit code is flat; from there each step is half as much again. */
function stepOf(range: number): number {
  const codes = range * 255;
  if (!(codes > 1)) return 0;
  return Math.min(STEPS, 1 + Math.floor((Math.log2(codes) / 8) * (STEPS - 1)));
}

/** The steps, in 0..15, of an activity map; empty where there is none. */
export function activitySteps(activity: string): Uint8Array {
  return Uint8Array.from(activity, (digit) => Number.parseInt(digit, 16));
}
