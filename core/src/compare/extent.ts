import type { WorldPart } from './worldParts.ts';

/** Shares of the whole's size, and values, within which two models count as the same. */
export const GEOMETRY_TOLERANCE = {
  /** Of the longest side: single floats keep seven digits, and writers round to six. */
  place: 1e-5,
  /** Of a UV: a tenth of a texel of 4,096. */
  uv: 2.5e-5,
  /** Sine of the angle between normals: about a degree, since some formats keep ten bits. */
  normal: 0.02,
  /** One and a half steps of 8 bits. */
  colour: 1.5 / 255,
  /** Of an area. */
  area: 1e-4,
} as const;

/** What single floats and six written digits keep of a coordinate. */
const SINGLE = 5e-7;

interface Bounds {
  min: number[];
  max: number[];
}

/** The box around the points of parts; inside out where there are none. */
export function boundsOf(parts: readonly Pick<WorldPart, 'points'>[]): Bounds {
  const [min, max] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  for (const { points } of parts)
    for (let k = 0; k < 3; k += 1) {
      let [least, most] = [min[k], max[k]];
      for (let i = k; i < points.length; i += 3) {
        const value = points[i];
        if (value < least) least = value;
        if (value > most) most = value;
      }
      min[k] = least;
      max[k] = most;
    }
  return { min, max };
}

/** Longest side of the whole. */
export function sizeOf(parts: readonly WorldPart[]): number {
  const { min, max } = boundsOf(parts);
  return Math.max(0, ...max.map((value, k) => value - min[k]));
}

/**
 * Of the size of these parts: a bolt in a hall is as exact as one by itself. Far from the origin, and in a
 * large whole, single floats are coarser than that.
 */
export function toleranceOf(parts: readonly WorldPart[], size: number): number {
  const { min, max } = boundsOf(parts);
  const farthest = Math.max(
    size,
    ...[...min, ...max].map((value) => (Number.isFinite(value) ? Math.abs(value) : 0)),
  );
  const side = Math.max(0, ...max.map((value, k) => value - min[k]));
  return Math.max(GEOMETRY_TOLERANCE.place * side, farthest * SINGLE);
}
