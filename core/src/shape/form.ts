import type { PolygonMesh } from '../scene/document.ts';

/**
 * Numbers of a body that stay the same however it is moved and turned, in the mesh's own units: its count of faces and
 * corners, its area, how far its corners lie from their middle (the mean of the distance, of its square and of its fourth
 * power, as lengths), and a number that changes its sign when the body is mirrored. The last is 0 for what is even about its
 * middle in all directions. Plain JSON.
 */
export interface Form {
  faces: number;
  corners: number;
  area: number;
  spread: [number, number, number];
  hand: number;
}

/** Single precision, after sums over many corners. */
const SAME = 1e-4;
/** Below this a hand is none. */
const EVEN = 1e-6;

/** The form of some faces of a mesh. */
export function formOf({ points, faceCorners }: PolygonMesh, faces: readonly number[], { starts, areas }: { starts: Uint32Array; areas: Float64Array }): Form {
  const middle = [0, 0, 0];
  let corners = 0;
  let area = 0;
  const each = (visit: (point: number) => void) => {
    for (const face of faces) for (let corner = starts[face]; corner < starts[face + 1]; corner += 1) visit(faceCorners[corner] * 3);
  };
  for (const face of faces) area += areas[face];
  each((point) => {
    corners += 1;
    for (let k = 0; k < 3; k += 1) middle[k] += points[point + k];
  });
  for (let k = 0; k < 3; k += 1) middle[k] /= Math.max(1, corners);
  const sums = [0, 0, 0];
  // Three directions that turn along with the body: its corners, weighed by powers of their distance.
  const turning = [
    [0, 0, 0],
    [0, 0, 0],
    [0, 0, 0],
  ];
  each((point) => {
    const [x, y, z] = [points[point] - middle[0], points[point + 1] - middle[1], points[point + 2] - middle[2]];
    const squared = x * x + y * y + z * z;
    const distance = Math.sqrt(squared);
    sums[0] += distance;
    sums[1] += squared;
    sums[2] += squared * squared;
    [distance, squared, distance * squared].forEach((weight, i) => {
      turning[i][0] += x * weight;
      turning[i][1] += y * weight;
      turning[i][2] += z * weight;
    });
  });
  const n = Math.max(1, corners);
  const spread: Form['spread'] = [sums[0] / n, Math.sqrt(sums[1] / n), (sums[2] / n) ** 0.25];
  const [a, b, c] = turning.map((vector, i) => vector.map((value) => value / n / (spread[1] || 1) ** (i + 2)));
  const hand = a[0] * (b[1] * c[2] - b[2] * c[1]) - a[1] * (b[0] * c[2] - b[2] * c[0]) + a[2] * (b[0] * c[1] - b[1] * c[0]);
  return { faces: faces.length, corners, area, spread, hand: Math.abs(hand) < EVEN ? 0 : hand };
}

/** Whether two bodies have the same form: as they are, or one as the other's mirror image. */
export function compareForms(one: Form, other: Form): 'same' | 'mirrored' | null {
  const near = (a: number, b: number) => Math.abs(a - b) <= SAME * Math.max(Math.abs(a), Math.abs(b));
  if (one.faces !== other.faces || one.corners !== other.corners || !near(one.area, other.area)) return null;
  if (!one.spread.every((value, i) => near(value, other.spread[i]))) return null;
  const tolerance = Math.max(EVEN, 0.01 * Math.max(Math.abs(one.hand), Math.abs(other.hand)));
  if (Math.abs(one.hand - other.hand) <= tolerance) return 'same';
  return Math.abs(one.hand + other.hand) <= tolerance ? 'mirrored' : null;
}
