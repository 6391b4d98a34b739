import type { Vec3 } from './document.ts';

type Three = readonly number[];

/** The product of lengths and the cosine between them. */
export function dot(a: Three, b: Three): number {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

/** The vector square to both, right-handed, as long as the area that they span. */
export function cross(a: Three, b: Three): Vec3 {
  return [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
}

/** The direction of length 1; another where there is none. */
export function normalised([x, y, z]: Three, otherwise: Vec3 = [0, 0, 0]): Vec3 {
  const length = Math.hypot(x, y, z);
  return length > 0 ? [x / length, y / length, z / length] : otherwise;
}
