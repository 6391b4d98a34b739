import earcut from 'earcut';
import type { PolygonMesh } from './document.ts';

type Outline = Pick<PolygonMesh, 'points' | 'faceCorners'>;

/** Triangles that take so much more area than the polygon seen from its front are bent far out of its plane. */
const BENT = 1.1;
/** Polygons of more corners are cut in their plane alone: the way through space takes the cube of them. */
const MOST_BENT = 64;

/**
 * Cuts a polygon of five corners and more into triangles: ear clipping in its own plane, where corners that
 * lie upon an edge or on each other make triangles without area. One that is bent far out of its plane, or that
 * cannot be cut there, is cut with the least area and folds. Always n - 2 triangles, each corner by its number in
 * the polygon.
 */
export function cutPolygon(
  mesh: Outline,
  first: number,
  count: number,
  normal: readonly [number, number, number],
): number[] {
  const inPlane = cutInPlane(mesh, first, count, normal);
  if (count > MOST_BENT) return inPlane ?? fan(count);
  const taken = inPlane ? areaOf(mesh, first, inPlane) : Infinity;
  if (inPlane && taken <= BENT * Math.hypot(...normal)) return inPlane;
  const cut = cutThroughSpace(mesh, first, count);
  return inPlane && taken <= areaOf(mesh, first, cut) ? inPlane : cut;
}

function fan(count: number): number[] {
  return Array.from({ length: count - 2 }, (_, i) => [0, i + 1, i + 2]).flat();
}

function cutInPlane(
  { points, faceCorners }: Outline,
  first: number,
  count: number,
  normal: readonly number[],
): number[] | null {
  const sizes = normal.map(Math.abs);
  const drop = sizes.indexOf(Math.max(...sizes));
  const flat: number[] = [];
  for (let i = 0; i < count; i += 1) {
    const index = faceCorners[first + i] * 3;
    flat.push(points[index + ((drop + 1) % 3)], points[index + ((drop + 2) % 3)]);
  }
  const turned = normal[drop] < 0;
  const cut = withLeftOut(earcut(flat), flat);
  if (cut.length === (count - 2) * 3) return turned ? reversed(cut) : cut;
  if (count > MOST_CLIPPED) return null;
  if (turned) for (let i = 0; i < flat.length; i += 2) flat[i] = -flat[i];
  return clipped(flat, count);
}

/** Outlines of more corners are not clipped one by one. */
const MOST_CLIPPED = 1000;

/**
 * Clips ears one by one, those with an area and spikes first: other corners on one line or at one place stay
 * until nothing else is left, so that others are joined to them. Always n - 2 triangles, whatever the outline; it
 * goes round to the left.
 */
function clipped(flat: readonly number[], count: number): number[] {
  const ring = Array.from({ length: count }, (_, i) => i);
  const out: number[] = [];
  const corner = (k: number) => ring[(k + ring.length) % ring.length];
  const leftOf = (a: number, b: number, c: number) =>
    (flat[b * 2] - flat[a * 2]) * (flat[c * 2 + 1] - flat[a * 2 + 1]) -
    (flat[b * 2 + 1] - flat[a * 2 + 1]) * (flat[c * 2] - flat[a * 2]);
  const same = (a: number, b: number) => flat[a * 2] === flat[b * 2] && flat[a * 2 + 1] === flat[b * 2 + 1];
  const isFree = (a: number, b: number, c: number) =>
    ring.every(
      (other) =>
        same(other, a) ||
        same(other, b) ||
        same(other, c) ||
        leftOf(a, b, other) < 0 ||
        leftOf(b, c, other) < 0 ||
        leftOf(c, a, other) < 0,
    );
  let start = 0;
  while (ring.length > 3) {
    let [ear, flatEar] = [-1, -1];
    for (let i = 0; i < ring.length && ear < 0; i += 1) {
      const k = (start + i) % ring.length;
      const [a, b, c] = [corner(k - 1), corner(k), corner(k + 1)];
      const area = leftOf(a, b, c);
      const isSpike = area === 0 && !isBetween(flat, b, a, c);
      if (isSpike || (area > 0 && isFree(a, b, c))) ear = k;
      else if (area === 0 && flatEar < 0) flatEar = k;
    }
    const index = Math.max(0, ear >= 0 ? ear : flatEar);
    out.push(corner(index - 1), corner(index), corner(index + 1));
    ring.splice(index, 1);
    // The next but one, so that triangles do not all meet in one corner.
    start = (index + 1) % ring.length;
  }
  return [...out, ...ring];
}

/**
 * The triangles with corners that the clipping left out, since they lie upon an edge or on the corner before:
 * each cuts the triangle at that edge in two. What was left out otherwise, such as the tip of a spike, is still
 * missing.
 */
function withLeftOut(cut: readonly number[], flat: readonly number[]): number[] {
  const count = flat.length / 2;
  const used = new Set(cut);
  if (used.size === count || used.size < 3) return [...cut];
  const triangles: number[][] = [];
  for (let i = 0; i < cut.length; i += 3) triangles.push(cut.slice(i, i + 3));
  const left = [...used].sort((a, b) => a - b);
  left.forEach((from, i) => {
    const to = left[(i + 1) % left.length];
    const between: number[] = [];
    for (let k = (from + 1) % count; k !== to; k = (k + 1) % count) between.push(k);
    if (between.length === 0 || !between.every((corner) => isBetween(flat, corner, from, to))) return;
    // Along the edge in either direction, as the clipping turns its triangles.
    const index = triangles.findIndex((triangle) => triangle.includes(from) && triangle.includes(to));
    if (index < 0) return;
    const [triangle] = triangles.splice(index, 1);
    const apex = triangle.find((corner) => corner !== from && corner !== to) ?? from;
    const forward = triangle[(triangle.indexOf(from) + 1) % 3] === to;
    const chain = [from, ...between, to];
    for (let k = 0; k + 1 < chain.length; k += 1)
      triangles.push(forward ? [chain[k], chain[k + 1], apex] : [chain[k + 1], chain[k], apex]);
  });
  return triangles.flat();
}

/** Whether a corner that lies on the line of two others does not lie beyond them. */
function isBetween(flat: readonly number[], corner: number, from: number, to: number): boolean {
  const along = (k: 0 | 1) =>
    (flat[corner * 2 + k] - flat[from * 2 + k]) * (flat[to * 2 + k] - flat[corner * 2 + k]);
  return along(0) + along(1) >= 0;
}

function reversed(cut: readonly number[]): number[] {
  const out: number[] = [];
  for (let i = 0; i < cut.length; i += 3) out.push(cut[i], cut[i + 2], cut[i + 1]);
  return out;
}

function areaOf(mesh: Outline, first: number, cut: readonly number[]): number {
  let sum = 0;
  for (let i = 0; i < cut.length; i += 3) sum += triangleArea(mesh, first, [cut[i], cut[i + 1], cut[i + 2]]);
  return sum;
}

/**
 * The triangles through space that take the least together, by what each stretch of corners takes: their areas,
 * and for each fold between two of them the square of its length by how far it is folded.
 */
function cutThroughSpace(mesh: Outline, first: number, count: number): number[] {
  const cost = new Float64Array(count * count);
  const apex = new Uint16Array(count * count);
  const normals = new Float64Array(count * count * 3);
  const fold = (from: number, to: number, normal: Float64Array): number => {
    const index = (from * count + to) * 3;
    const [x, y, z] = [normals[index], normals[index + 1], normals[index + 2]];
    if (x === 0 && y === 0 && z === 0) return 0;
    const along = normal[0] * x + normal[1] * y + normal[2] * z;
    return (squaredDistance(mesh, first + from, first + to) * (1 - along)) / 2;
  };
  for (let span = 2; span < count; span += 1)
    for (let from = 0; from + span < count; from += 1) {
      const to = from + span;
      const index = from * count + to;
      cost[index] = Infinity;
      for (let k = from + 1; k < to; k += 1) {
        const looks = areaVector(mesh, first, [from, k, to]);
        const area = Math.sqrt(looks[0] ** 2 + looks[1] ** 2 + looks[2] ** 2);
        const normal = looks.map((value) => (area > 0 ? value / area : 0));
        const bends = area > 0 ? fold(from, k, normal) + fold(k, to, normal) : 0;
        const sum = cost[from * count + k] + cost[k * count + to] + area / 2 + bends;
        if (sum >= cost[index]) continue;
        cost[index] = sum;
        apex[index] = k;
        normals.set(normal, index * 3);
      }
    }
  const out: number[] = [];
  const open: [number, number][] = [[0, count - 1]];
  for (let stretch = open.pop(); stretch; stretch = open.pop()) {
    const [from, to] = stretch;
    if (to - from < 2) continue;
    const k = apex[from * count + to];
    out.push(from, k, to);
    open.push([from, k], [k, to]);
  }
  return out;
}

/** Twice the area of a triangle of corners, counted from the polygon's first. */
export function triangleArea(
  mesh: Outline,
  first: number,
  triangle: readonly [number, number, number],
): number {
  const area = areaVector(mesh, first, triangle);
  return Math.sqrt(area[0] * area[0] + area[1] * area[1] + area[2] * area[2]);
}

const vector = new Float64Array(3);

/** The same times the direction that it looks in. Asked for every quad: each answer takes the place of the last. */
export function areaVector(
  { points, faceCorners }: Outline,
  first: number,
  [a, b, c]: readonly [number, number, number],
): Float64Array {
  const pa = faceCorners[first + a] * 3;
  const pb = faceCorners[first + b] * 3;
  const pc = faceCorners[first + c] * 3;
  const ux = points[pb] - points[pa];
  const uy = points[pb + 1] - points[pa + 1];
  const uz = points[pb + 2] - points[pa + 2];
  const vx = points[pc] - points[pa];
  const vy = points[pc + 1] - points[pa + 1];
  const vz = points[pc + 2] - points[pa + 2];
  vector[0] = uy * vz - uz * vy;
  vector[1] = uz * vx - ux * vz;
  vector[2] = ux * vy - uy * vx;
  return vector;
}

/** Between two corners of a mesh, by their positions. */
export function squaredDistance({ points, faceCorners }: Outline, i: number, j: number): number {
  const [a, b] = [faceCorners[i] * 3, faceCorners[j] * 3];
  let sum = 0;
  for (let k = 0; k < 3; k += 1) sum += (points[a + k] - points[b + k]) ** 2;
  return sum;
}
