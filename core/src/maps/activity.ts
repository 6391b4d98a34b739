import { type PixelBuffer, unitOf } from '../images/pixelBuffer.ts';
import { samplePlaces } from './samplePlaces.ts';

/** Cells along each side of an activity map. */
export const ACTIVITY = 64;
/** Samples along each side of a cell. */
const SAMPLES = 6;
/** Steps of activity; 0 is flat. */
const STEPS = 15;

/**
 * How much an image changes within each of 64 by 64 cells, as one hexadecimal digit a cell, rows from the
 * top: 0 where the cell is flat, 15 where it holds all there is. Steps are logarithmic, so that faint grain
 * is seen beside hard edges.
 */
export function activityOf({ width, height, components, data }: PixelBuffer): string {
  const unit = unitOf(data);
  const colours = components >= 3 ? 3 : 1;
  const rows = distinctOffsets(height, width * components);
  const columns = distinctOffsets(width, components);
  let text = '';
  for (let row = 0; row < ACTIVITY; row += 1) {
    for (let column = 0; column < ACTIVITY; column += 1) {
      let most = 0;
      for (let k = 0; k < colours; k += 1) {
        let low = Number.POSITIVE_INFINITY;
        let high = Number.NEGATIVE_INFINITY;
        for (let i = rows.starts[row]; i < rows.starts[row + 1]; i += 1) {
          const from = rows.offsets[i] + k;
          for (let j = columns.starts[column]; j < columns.starts[column + 1]; j += 1) {
            const value = data[from + columns.offsets[j]];
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

/**
 * Where the samples of each cell lie, as offsets into the numbers; those of small images coincide and count
 * once.
 */
function distinctOffsets(size: number, stride: number): { offsets: number[]; starts: number[] } {
  const places = samplePlaces(size, ACTIVITY, SAMPLES);
  const offsets: number[] = [];
  const starts: number[] = [];
  for (let i = 0; i < places.length; i += 1) {
    const isFirst = i % SAMPLES === 0;
    if (isFirst) starts.push(offsets.length);
    if (isFirst || places[i] !== places[i - 1]) offsets.push(places[i] * stride);
  }
  starts.push(offsets.length);
  return { offsets, starts };
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
