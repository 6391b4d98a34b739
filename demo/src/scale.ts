import { AsyncLocalStorage } from 'node:async_hooks';
import type { Vec3 } from '@kinkajou/core/scene/document';

/** How finely things are made: at most so many texels along images, so large a share of a round shape's steps. */
export interface Scale {
  texels: number;
  shapes: number;
}

const scales = new AsyncLocalStorage<Scale>();

/** Makes something coarser than it is meant to be, for who needs what it is and not how fine it is. */
export function atScale<T>(scale: Scale, make: () => T): T {
  return scales.run(scale, make);
}

/** Side of an image that is meant to have `size` texels. */
export function imageSize(size: number): number {
  return Math.min(size, scales.getStore()?.texels ?? size);
}

/** Steps of something round that is meant to have so many; six at least, or as few as are meant. */
export function steps(count: number, fewest = 6): number {
  const share = scales.getStore()?.shapes ?? 1;
  return Math.max(Math.min(count, fewest), Math.round(count * share));
}

/** Points of a path, first and last among them. */
export function thinned(path: Vec3[]): Vec3[] {
  const count = steps(path.length);
  if (count >= path.length) return path;
  return Array.from({ length: count }, (_, i) => path[Math.round((i * (path.length - 1)) / (count - 1))]);
}
