import type { PolygonMesh, Vec3 } from '../scene/document.ts';

/**
 * Numbers of a body that stay the same however it is moved and turned, in the mesh's own units: its count of
 * faces and corners, its area, how far its corners lie from their middle (the mean of the distance, of its
 * square and of its fourth power, as lengths), and a number that changes its sign when the body is mirrored.
 * The last is 0 for what is even about its middle in all directions. Plain JSON.
 */
export interface Form {
  faces: number;
  corners: number;
  area: number;
  spread: [number, number, number];
  hand: number;
  /** How it is stretched where it stands; absent for what is as large in all directions. */
  stretch?: string;
}

/** Single precision, after sums over many corners. */
const SAME = 1e-4;
/** Below this a hand is none. */
const EVEN = 1e-6;

/**
 * The form of some faces of a mesh; null for all of them. Two passes over their corners, without an object
 * for any.
 */
export function formOf(
  { points, faceCounts, faceCorners }: PolygonMesh,
  faces: readonly number[] | null,
  { starts, areas }: { starts: Uint32Array; areas: Float64Array },
): Form {
  const count = faces ? faces.length : faceCounts.length;
  let [mx, my, mz, corners, area] = [0, 0, 0, 0, 0];
  for (let i = 0; i < count; i += 1) {
    const face = faces ? faces[i] : i;
    area += areas[face];
    for (let corner = starts[face]; corner < starts[face + 1]; corner += 1) {
      const point = faceCorners[corner] * 3;
      corners += 1;
      mx += points[point];
      my += points[point + 1];
      mz += points[point + 2];
    }
  }
  const n = Math.max(1, corners);
  mx /= n;
  my /= n;
  mz /= n;
  let [first, second, fourth] = [0, 0, 0];
  // Three directions that turn along with the body: its corners, weighed by powers of their distance.
  const turning = new Float64Array(9);
  for (let i = 0; i < count; i += 1) {
    const face = faces ? faces[i] : i;
    for (let corner = starts[face]; corner < starts[face + 1]; corner += 1) {
      const point = faceCorners[corner] * 3;
      const x = points[point] - mx;
      const y = points[point + 1] - my;
      const z = points[point + 2] - mz;
      const squared = x * x + y * y + z * z;
      const distance = Math.sqrt(squared);
      const cubed = distance * squared;
      first += distance;
      second += squared;
      fourth += squared * squared;
      turning[0] += x * distance;
      turning[1] += y * distance;
      turning[2] += z * distance;
      turning[3] += x * squared;
      turning[4] += y * squared;
      turning[5] += z * squared;
      turning[6] += x * cubed;
      turning[7] += y * cubed;
      turning[8] += z * cubed;
    }
  }
  const spread: Form['spread'] = [first / n, Math.sqrt(second / n), (fourth / n) ** 0.25];
  const [a, b, c] = [0, 1, 2].map((i) =>
    [0, 1, 2].map((k) => turning[i * 3 + k] / n / (spread[1] || 1) ** (i + 2)),
  );
  const hand =
    a[0] * (b[1] * c[2] - b[2] * c[1]) -
    a[1] * (b[0] * c[2] - b[2] * c[0]) +
    a[2] * (b[0] * c[1] - b[1] * c[0]);
  return { faces: count, corners, area, spread, hand: Math.abs(hand) < EVEN ? 0 : hand };
}

/** The form of a body where it stands: as large as it is there, stretched or mirrored. */
export function placedForm(first: Form, scale: Vec3, mirrored: boolean): Form {
  const hand = mirrored ? -first.hand : first.hand;
  const [size] = scale;
  if (scale.some((value) => Math.abs(value - size) > SAME * size))
    return { ...first, hand, stretch: scale.map((value) => value.toPrecision(4)).join(' ') };
  return {
    ...first,
    area: first.area * size * size,
    spread: first.spread.map((value) => value * size) as Form['spread'],
    hand,
  };
}

/** Whether two bodies have the same form: as they are, or one as the other's mirror image. */
export function compareForms(first: Form, other: Form): 'same' | 'mirrored' | null {
  const near = (a: number, b: number) => Math.abs(a - b) <= SAME * Math.max(Math.abs(a), Math.abs(b));
  if (
    first.faces !== other.faces ||
    first.corners !== other.corners ||
    first.stretch !== other.stretch ||
    !near(first.area, other.area)
  )
    return null;
  if (!first.spread.every((value, i) => near(value, other.spread[i]))) return null;
  const tolerance = Math.max(EVEN, 0.01 * Math.max(Math.abs(first.hand), Math.abs(other.hand)));
  if (Math.abs(first.hand - other.hand) <= tolerance) return 'same';
  return Math.abs(first.hand + other.hand) <= tolerance ? 'mirrored' : null;
}
