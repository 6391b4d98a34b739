import type { Part } from '../../asset/parts.ts';
import { type Bounds, mergeBounds } from '../../scene/measure.ts';

/** Bounds of what is left of an asset, in metres; null without geometry. */
export function boundsOfParts(parts: readonly Part[]): Bounds | null {
  return mergeBounds(parts.filter(({ dropped }) => !dropped).map(({ bounds }) => bounds));
}

/** How far a point lies outside of bounds; 0 within. */
export function distanceTo({ min, max }: Bounds, point: readonly number[]): number {
  return Math.hypot(...point.map((value, k) => Math.max(min[k] - value, 0, value - max[k])));
}

/** Length of a box's diagonal. */
export function diagonalOf({ min, max }: Bounds): number {
  return Math.hypot(...max.map((value, k) => value - min[k]));
}
