import { cutPolygon } from '../scene/cutPolygon.ts';
import { Cloud } from './cloud.ts';
import { GEOMETRY_TOLERANCE } from './extent.ts';
import type { WorldPart } from './worldParts.ts';

/** A part by its places: what meets there. */
export interface Look {
  part: WorldPart;
  cloud: Cloud;
  /** Number of the place per corner. */
  placeOf: Int32Array;
  /** Inside the face, per corner. */
  angles: Float64Array;
  /**
   * x, y, z per place: unit face normals weighted by the angles at their corners, which no cut into triangles
   * changes.
   */
  facing: Float64Array;
  /** All angles that `facing` is made of, per place: what it would be long if all faces looked one way. */
  spread: Float64Array;
  /**
   * Per place how far faces there are from plane, see {@link bentOf}: what `facing` says turns with how such
   * faces are cut.
   */
  warp: Float64Array;
  triangles: number;
  /** Square metres; least and most where polygons are not plane and can be cut in several ways. */
  area: Range;
  /** Triangles without area, which some writers leave out. */
  thin: number;
  areas: Map<string, Range>;
}

/** What a corner on a straight edge counts for as warp: not plane, and far from crumpled. */
const STRAIGHT = 0.01;

/** Faces narrower than so many tolerances may be turned by rounding. */
const SLIVER = 4;
/**
 * A corner that is off a straight edge by less than so many times what its face is off its plane makes a
 * triangle that looks anywhere, too.
 */
const DEEP = 50;

/** The least and the most that a number can be. */
export type Range = [number, number];
/** Gathers a part's corners into places; corners nearer to each other than `tolerance` are at one. */
export function look(part: WorldPart, tolerance: number): Look {
  const { points, faces, materials } = part;
  const cloud = new Cloud(tolerance);
  const placeOf = new Int32Array(points.length / 3);
  for (let corner = 0; corner < placeOf.length; corner += 1)
    placeOf[corner] = cloud.add(points[corner * 3], points[corner * 3 + 1], points[corner * 3 + 2]);
  const angles = new Float64Array(placeOf.length);
  const facing = new Float64Array(cloud.size * 3);
  const spread = new Float64Array(cloud.size);
  const warp = new Float64Array(cloud.size);
  const areas = new Map<string, Range>();
  const area: Range = [0, 0];
  let [start, triangles, thin] = [0, 0, 0];
  faces.forEach((count, face) => {
    triangles += Math.max(0, count - 2);
    const normal = faceVector(points, start, count);
    const length = length3(normal[0], normal[1], normal[2]);
    const values: Range = [length / 2, count < 4 ? length / 2 : mostOf({ points, start, count, normal })];
    grow(area, values);
    const existing = areas.get(materials[face]);
    if (existing) grow(existing, values);
    else areas.set(materials[face], values);
    const outline: Face = { points, start, count, normal };
    // Where corners meet a face looks anywhere; a triangle of it is half as wide.
    const [shortest, longest] = sidesOf(points, start, count);
    const width = length / longest;
    const looks = width > tolerance * SLIVER;
    const depth = count > 3 ? depthOf(outline) : 0;
    for (let k = 0; k < count; k += 1) {
      const angle = cornerAngle(outline, k);
      angles[start + k] = angle;
      const place = placeOf[start + k];
      if (angle < 1e-4 || Math.abs(angle - Math.PI) < 1e-4) {
        thin += 1;
        // A corner on a straight edge is cut into a triangle that looks nowhere.
        warp[place] = Math.max(warp[place], STRAIGHT);
      }
      const offStraight = Math.abs(angle - Math.PI);
      const nearlyStraight = offStraight < 0.1 && offStraight * shortestAt(outline, k) < depth * DEEP;
      if (nearlyStraight || width < tolerance * SLIVER * 4) warp[place] = Math.max(warp[place], STRAIGHT);
      if (!looks) continue;
      spread[place] += angle;
      for (let axis = 0; axis < 3; axis += 1) facing[place * 3 + axis] += (angle * normal[axis]) / length;
    }
    const bent = count > 3 ? bentOf(outline, values, depth) : 0;
    if (bent > 0 || depth > ROUGH * shortest) {
      for (let k = 0; k < count; k += 1) {
        const place = placeOf[start + k];
        const rough = depth > ROUGH * shortestAt(outline, k) ? ROUGH : 0;
        warp[place] = Math.max(warp[place], bent, rough);
      }
    }
    start += count;
  });
  return { part, cloud, placeOf, angles, facing, spread, warp, triangles, area, thin, areas };
}

function grow(range: Range, [least, most]: Range): void {
  range[0] += least;
  range[1] += most;
}

/**
 * The most area that a face may be said to have. Of more than four corners far from plane any cut may take more
 * than those that are tried, by as much as these differ.
 */
function mostOf(face: Face): number {
  const { points, start, count, normal } = face;
  const least = length3(normal[0], normal[1], normal[2]) / 2;
  const most = Math.max(least, largestCut(points, start, count));
  if (count === 4 || count > MOST_SIDES || depthOf(face) <= FLAT * Math.sqrt(least * 2)) return most;
  return most + Math.max(most, cutArea(face)) - least;
}

/** Fans that are tried of large polygons. */
const FANS = 12;

/** The largest area of a face over its fans of triangles; of plane convex faces all are the same. */
function largestCut(points: Float64Array, start: number, count: number): number {
  let most = 0;
  // The other two corners of a quad cut it as the first two do.
  for (let first = 0; first < (count === 4 ? 2 : Math.min(count, FANS)); first += 1) {
    let sum = 0;
    for (let k = 1; k + 1 < count; k += 1)
      sum += triangleArea(
        points,
        start + first,
        start + ((first + k) % count),
        start + ((first + k + 1) % count),
      );
    most = Math.max(most, sum);
  }
  return most;
}

function triangleArea(points: Float64Array, a: number, b: number, c: number): number {
  return length3(...areaVector(points, [a, b, c])) / 2;
}

/** Twice the area of a triangle times its direction. */
function areaVector(
  points: Float64Array,
  [a, b, c]: readonly [number, number, number],
): [number, number, number] {
  const [x, y, z] = [points[a * 3], points[a * 3 + 1], points[a * 3 + 2]];
  const [ux, uy, uz] = [points[b * 3] - x, points[b * 3 + 1] - y, points[b * 3 + 2] - z];
  const [vx, vy, vz] = [points[c * 3] - x, points[c * 3 + 1] - y, points[c * 3 + 2] - z];
  return [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
}

/** The shortest and the longest side of a face. */
function sidesOf(points: Float64Array, start: number, count: number): Range {
  let [longest, shortest] = [0, Infinity];
  for (let k = 0; k < count; k += 1) {
    const side = distance(points, start + k, start + ((k + 1) % count));
    if (side > longest) longest = side;
    if (side < shortest) shortest = side;
  }
  return [shortest, longest];
}

function distance(points: Float64Array, from: number, to: number): number {
  const [a, b] = [from * 3, to * 3];
  return length3(points[b] - points[a], points[b + 1] - points[a + 1], points[b + 2] - points[a + 2]);
}

/** Several times as fast as Math.hypot, which minds numbers too large to be squared. */
function length3(x: number, y: number, z: number): number {
  return Math.sqrt(x * x + y * y + z * z);
}

/** Twice the vector area of a face, by Newell. */
export function faceVector(points: Float64Array, start: number, count: number): [number, number, number] {
  const out: [number, number, number] = [0, 0, 0];
  const [ox, oy, oz] = [points[start * 3], points[start * 3 + 1], points[start * 3 + 2]];
  for (let k = 1; k + 1 < count; k += 1) {
    const [p, q] = [(start + k) * 3, (start + k + 1) * 3];
    const [ux, uy, uz] = [points[p] - ox, points[p + 1] - oy, points[p + 2] - oz];
    const [vx, vy, vz] = [points[q] - ox, points[q + 1] - oy, points[q + 2] - oz];
    out[0] += uy * vz - uz * vy;
    out[1] += uz * vx - ux * vz;
    out[2] += ux * vy - uy * vx;
  }
  return out;
}

/** Hollow outlines of more sides are not cut, and are not judged. */
const MOST_SIDES = 10_000;
/** The triangles of a sound outline look its way, but for this share of their area. */
const OVERLAP = 1e-3;
/** Angles at a corner mean little where the face is deeper than this share of the sides there. */
const ROUGH = 1e-3;
/** Corners of a face are in one plane within this share of its size. */
const FLAT = 1e-4;

/**
 * How far a face is from plane: 0 where it is, hollow or not, 1 where its outline meets itself; else the share
 * by which its area differs with the cut.
 */
function bentOf(face: Face, [least, most]: Range, depth: number): number {
  const { count, normal } = face;
  const length = length3(normal[0], normal[1], normal[2]);
  if (length === 0) return 1;
  const bent = 1 - least / most;
  const plane = depth <= FLAT * Math.sqrt(length);
  if ((plane || count > 4) && bent > FLAT && (count > MOST_SIDES || overlaps(face))) return 1;
  return plane ? 0 : bent;
}

/** How far apart the corners of a face lie along its normal; without an area infinitely. */
function depthOf({ points, start, count, normal }: Face): number {
  const length = length3(normal[0], normal[1], normal[2]);
  if (length === 0) return Infinity;
  let [low, high] = [Infinity, -Infinity];
  for (let corner = start * 3; corner < (start + count) * 3; corner += 3) {
    const height =
      (points[corner] * normal[0] + points[corner + 1] * normal[1] + points[corner + 2] * normal[2]) / length;
    low = Math.min(low, height);
    high = Math.max(high, height);
  }
  return high - low;
}

/** The shorter of the two sides at a corner. */
function shortestAt({ points, start, count }: Face, k: number): number {
  const here = start + k;
  return Math.min(
    distance(points, here, start + (k === 0 ? count - 1 : k - 1)),
    distance(points, here, start + ((k + 1) % count)),
  );
}

/** Whether a face cannot be cut into triangles that look its way: its outline crosses or meets itself. */
function overlaps(face: Face): boolean {
  const { points, normal } = face;
  let [there, back] = [0, 0];
  for (const triangle of trianglesOf(face)) {
    const [x, y, z] = areaVector(points, triangle);
    const along = x * normal[0] + y * normal[1] + z * normal[2];
    if (along > 0) there += along;
    else back -= along;
  }
  return back > there * OVERLAP;
}

/** The area of a face as we would cut it. */
function cutArea(face: Face): number {
  let area = 0;
  for (const triangle of trianglesOf(face)) area += length3(...areaVector(face.points, triangle)) / 2;
  return area;
}

function trianglesOf({ points, start, count, normal }: Face): [number, number, number][] {
  const corners = Uint32Array.from({ length: count }, (_, k) => start + k);
  const cut = cutPolygon({ points, faceCorners: corners }, 0, count, normal);
  return Array.from({ length: cut.length / 3 }, (_, i) => [
    start + cut[i * 3],
    start + cut[i * 3 + 1],
    start + cut[i * 3 + 2],
  ]);
}

interface Face {
  points: Float64Array;
  start: number;
  count: number;
  normal: readonly [number, number, number];
}

/** The angle inside the face: more than half a turn where it is hollow. */
function cornerAngle({ points, start, count, normal }: Face, k: number): number {
  const here = (start + k) * 3;
  const before = (start + (k === 0 ? count - 1 : k - 1)) * 3;
  const after = (start + (k === count - 1 ? 0 : k + 1)) * 3;
  const [ux, uy, uz] = [
    points[after] - points[here],
    points[after + 1] - points[here + 1],
    points[after + 2] - points[here + 2],
  ];
  const [vx, vy, vz] = [
    points[before] - points[here],
    points[before + 1] - points[here + 1],
    points[before + 2] - points[here + 2],
  ];
  const [x, y, z] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
  const angle = Math.atan2(length3(x, y, z), ux * vx + uy * vy + uz * vz);
  const isHollow = count > 3 && x * normal[0] + y * normal[1] + z * normal[2] < 0;
  return isHollow ? Math.PI * 2 - angle : angle;
}

/** Whether two areas cannot be the same, however their polygons are cut. */
export function isOtherArea(a: Range, b: Range, whole: number): boolean {
  const slack = GEOMETRY_TOLERANCE.area * whole;
  return a[0] > b[1] + slack || b[0] > a[1] + slack;
}
