import type { Plane } from '../../images/components.ts';

/** The share of a plane that is there: at or above the cut-off, in 0..1. */
export function coverageOf({ values }: Plane, cutoff: number): number {
  let there = 0;
  for (const value of values) if (value >= cutoff) there += 1;
  return values.length === 0 ? 0 : there / values.length;
}

const ROUNDS = 16;

/**
 * Scales a resized cut-out, in place, so that as much of it is there as of the original. Averaging thins out
 * lines that are narrower than a pixel; without this nets and leaves vanish with the size.
 */
export function keepCoverage(original: Plane, resized: Plane, cutoff: number): Plane {
  const required = coverageOf(original, cutoff);
  if (required <= 0 || required >= 1 || cutoff <= 0) return resized;
  // A value is there once scale x value reaches the cut-off; the fitting scale lies where the sorted values
  // part.
  let [low, high] = [0.25, 4];
  for (let round = 0; round < ROUNDS; round += 1) {
    const middle = Math.sqrt(low * high);
    if (coverageOf(resized, cutoff / middle) < required) low = middle;
    else high = middle;
  }
  const { values } = resized;
  const [below, above] = [low, high].map((scale) => Math.abs(coverageOf(resized, cutoff / scale) - required));
  const scale = below < above ? low : high;
  for (let i = 0; i < values.length; i += 1) values[i] = Math.min(1, Math.max(0, values[i] * scale));
  return resized;
}
