import { Vector3 } from 'three';
import { ConvexHull } from 'three/addons/math/ConvexHull.js';
import { concatenated } from './concatenated.ts';
import { createMesh, type PolygonMesh } from './document.ts';
import { shownPoints } from './measure.ts';
import { COLLISION_USUAL, type Collision } from './partChange.ts';
import { rootOf } from './rootOf.ts';
import { placesOf, solidsOf } from './solids.ts';
import { triangulate } from './triangulate.ts';

/** A closed convex body: corners, and triangles that look outwards. Flat ones are none. */
export interface ConvexBody {
  points: Float64Array;
  corners: Uint32Array;
  volume: number;
}

/** Quickhull. Null where the points lie in a plane. */
export function hullOfPoints(points: ArrayLike<number>): ConvexBody | null {
  const places: Vector3[] = [];
  // Corners of neighbours lie in one place, which is enough.
  placesOf(points).forEach((first, i) => {
    if (first === i) places.push(new Vector3(points[i * 3], points[i * 3 + 1], points[i * 3 + 2]));
  });
  if (places.length < 4) return null;
  const hull = new ConvexHull().setFromPoints(places);
  const numbers = new Map<Vector3, number>();
  const corners: number[] = [];
  for (const face of hull.faces) {
    let edge = face.edge;
    do {
      const { point } = edge.head();
      if (!numbers.has(point)) numbers.set(point, numbers.size);
      corners.push(numbers.get(point) as number);
      edge = edge.next;
    } while (edge !== face.edge);
  }
  if (corners.length < 12) return null;
  const body = {
    points: Float64Array.from([...numbers.keys()].flatMap(({ x, y, z }) => [x, y, z])),
    corners: Uint32Array.from(corners),
  };
  return { ...body, volume: volumeOf(body) };
}

/** A convex body as a mesh of triangles. */
export function meshOfBody({ points, corners }: ConvexBody, name: string): PolygonMesh {
  return createMesh(name, {
    points,
    faceCounts: new Uint32Array(corners.length / 3).fill(3),
    faceCorners: corners,
  });
}

/** Tetrahedra from the first point. */
function volumeOf({ points: p, corners }: Pick<ConvexBody, 'points' | 'corners'>): number {
  let six = 0;
  for (let i = 0; i + 2 < corners.length; i += 3) {
    const [a, b, c] = [corners[i] * 3, corners[i + 1] * 3, corners[i + 2] * 3];
    const [ax, ay, az] = [p[a] - p[0], p[a + 1] - p[1], p[a + 2] - p[2]];
    const [bx, by, bz] = [p[b] - p[0], p[b + 1] - p[1], p[b + 2] - p[2]];
    const [cx, cy, cz] = [p[c] - p[0], p[c + 1] - p[1], p[c + 2] - p[2]];
    six += ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx);
  }
  return Math.abs(six) / 6;
}

/** Places along each axis at which a cut is tried. */
const CUTS = 9;
/** From so many triangles on fewer cuts are tried. */
const MANY_TRIANGLES = 5000;
const FEW_CUTS = 4;

/** Triangles of one body, nine numbers each, with their hull. */
interface Piece {
  triangles: Float64Array;
  hull: ConvexBody | null;
}

/**
 * Convex bodies that together hold a mesh: its solids to begin with; then, as long as a cut across an axis,
 * or two, spare enough volume, the piece that gains most is cut there, its triangles clipped at the plane.
 * Cuts are tried at the places of corners, where the dents of built things lie. Each body is the hull of its
 * piece, so that nothing sticks out.
 */
export function convexBodies(
  mesh: PolygonMesh,
  {
    hulls: most = COLLISION_USUAL.hulls,
    error = COLLISION_USUAL.error,
  }: Pick<Collision, 'hulls' | 'error'> = {},
): ConvexBody[] {
  const all = trianglesOf(mesh);
  const solids = bySolid(mesh, all);
  let pieces = (solids.length <= most ? solids : [concatenated(solids)]).map(withHull);
  const whole = hullOfPoints(shownPoints(mesh))?.volume ?? 0;
  const cuts = new Map<Piece, Cut | null>();
  const cutOf = (piece: Piece) => {
    const existing = cuts.get(piece);
    if (existing !== undefined) return existing;
    const made = bestCut(piece);
    cuts.set(piece, made);
    return made;
  };
  // A ring that is cut in two spares nothing yet; its quarters do.
  const sparedBelow = ({ halves, spared }: Cut) =>
    halves.reduce((sum, half) => sum + (cutOf(half)?.spared ?? 0), spared);
  while (pieces.length < most && whole > 0) {
    const cuts = pieces.flatMap((piece) => {
      const cut = cutOf(piece);
      return cut ? [{ piece, cut }] : [];
    });
    const gain = Math.max(0, ...cuts.map(({ cut }) => cut.spared));
    const best =
      gain > error * whole
        ? cuts.find(({ cut }) => cut.spared === gain)
        : pieces.length + 2 <= most && cuts.find(({ cut }) => sparedBelow(cut) > error * whole);
    if (!best) break;
    pieces = pieces.flatMap((piece) => (piece === best.piece ? best.cut.halves : [piece]));
  }
  return pieces.flatMap(({ hull }) => hull ?? []);
}

const volumeIn = ({ hull }: Piece) => hull?.volume ?? 0;
const withHull = (triangles: Float64Array): Piece => ({ triangles, hull: hullOfPoints(triangles) });

function trianglesOf(mesh: PolygonMesh): { face: Uint32Array; places: Float64Array } {
  const { corners, faces } = triangulate(mesh);
  const places = new Float64Array(faces.length * 9);
  for (let i = 0; i < faces.length * 3; i += 1) {
    const point = mesh.faceCorners[corners[i]] * 3;
    for (let k = 0; k < 3; k += 1) places[i * 3 + k] = mesh.points[point + k];
  }
  return { face: Uint32Array.from(faces), places };
}

function bySolid(
  mesh: PolygonMesh,
  { face, places }: { face: Uint32Array; places: Float64Array },
): Float64Array[] {
  const { solid, count } = solidsOf(mesh);
  const lists = Array.from({ length: count }, () => [] as number[]);
  face.forEach((number, triangle) => {
    const list = lists[solid[number]];
    for (let k = 0; k < 9; k += 1) list.push(places[triangle * 9 + k]);
  });
  return lists.filter(({ length }) => length > 0).map((list) => Float64Array.from(list));
}

interface Cut {
  halves: [Piece, Piece];
  /** How much smaller their hulls are than the whole one. */
  spared: number;
}

/** The cut of a piece whose halves have the smallest hulls; null where none can be made. */
function bestCut(piece: Piece): Cut | null {
  const { triangles, hull } = piece;
  if (!hull) return null;
  let best: Cut | null = null;
  for (let axis = 0; axis < 3; axis += 1)
    for (const place of cutsAlong(triangles, axis)) {
      const halves = [clipped(triangles, axis, place, 1), clipped(triangles, axis, place, -1)].map(
        withHull,
      ) as [Piece, Piece];
      if (halves.some(({ triangles }) => triangles.length === 0)) continue;
      const spared = volumeIn(piece) - volumeIn(halves[0]) - volumeIn(halves[1]);
      if (!best || spared > best.spared) best = { halves, spared };
    }
  return best;
}

/** Places of corners along an axis, evenly taken from all different ones, without the outermost. */
function cutsAlong(triangles: Float64Array, axis: number): number[] {
  const values = new Set<number>();
  for (let i = axis; i < triangles.length; i += 3) values.add(triangles[i]);
  const sorted = Float64Array.from(values).sort().slice(1, -1);
  const most = triangles.length / 9 > MANY_TRIANGLES ? FEW_CUTS : CUTS;
  if (sorted.length <= most) return [...sorted];
  return Array.from({ length: most }, (_, i) => sorted[Math.floor(((i + 0.5) * sorted.length) / most)]);
}

/** What lies on one side of a plane across an axis, cut there and closed where it was cut. */
function clipped(triangles: Float64Array, axis: number, place: number, side: 1 | -1): Float64Array {
  const out: number[] = [];
  const cuts: number[][] = [];
  for (let t = 0; t < triangles.length; t += 9) {
    const a = (triangles[t + axis] - place) * side;
    const b = (triangles[t + 3 + axis] - place) * side;
    const c = (triangles[t + 6 + axis] - place) * side;
    // What only touches the plane belongs to the other side, or to neither.
    if (a <= 0 && b <= 0 && c <= 0) continue;
    if (a > 0 && b > 0 && c > 0) {
      for (let i = t; i < t + 9; i += 1) out.push(triangles[i]);
      continue;
    }
    const above = [a, b, c];
    const polygon: number[][] = [];
    for (let k = 0; k < 3; k += 1) {
      const next = (k + 1) % 3;
      const from = [...triangles.subarray(t + k * 3, t + k * 3 + 3)];
      if (above[k] >= 0) polygon.push(from);
      if (above[k] * above[next] >= 0) continue;
      // From below to above, whichever way the edge is passed, so that neighbours meet in the very same
      // place.
      const [low, high] = above[k] < 0 ? [k, next] : [next, k];
      const share = above[low] / (above[low] - above[high]);
      polygon.push(
        [0, 1, 2].map((j) =>
          j === axis ? place : mix(triangles[t + low * 3 + j], triangles[t + high * 3 + j], share),
        ),
      );
    }
    for (let k = 2; k < polygon.length; k += 1) out.push(...polygon[0], ...polygon[k - 1], ...polygon[k]);
    const border = polygon.filter((point) => point[axis] === place);
    if (border.length === 2) cuts.push(border.flat());
  }
  return Float64Array.from([...out, ...closing(cuts)]);
}

function mix(a: number, b: number, share: number): number {
  return a + share * (b - a);
}

/**
 * Closes each outline that segments of two places make by a fan of triangles, so that cuts across it find
 * their corners.
 */
function closing(segments: readonly number[][]): number[] {
  const numbers = new Map<string, number>();
  const numberOf = (point: readonly number[]) => {
    const key = point.join(' ');
    const number = numbers.get(key) ?? numbers.size;
    numbers.set(key, number);
    return number;
  };
  const ends = segments.map((segment) => [numberOf(segment.slice(0, 3)), numberOf(segment.slice(3))]);
  const parent = Uint32Array.from({ length: numbers.size }, (_, i) => i);
  for (const [a, b] of ends) parent[rootOf(parent, a)] = rootOf(parent, b);
  const firsts = new Map<number, number[]>();
  return segments.flatMap((segment, i) => {
    const outline = rootOf(parent, ends[i][0]);
    const first = firsts.get(outline) ?? segment.slice(0, 3);
    firsts.set(outline, first);
    return [...first, ...segment];
  });
}

/** Faces of a hull whose directions are tried for a box. */
const MOST_FACES = 400;
/** A box that lies askew must be smaller by this to be taken. */
const ASKEW_PAYS = 0.99;

/**
 * The smallest box that lies along a face of the hull and one of that face's edges, as its eight corners: bit
 * k of a corner's number says whether it lies at the far side of axis k. The box along the axes where none is
 * smaller.
 */
export function smallestBox(points: ArrayLike<number>): Float64Array {
  const hull = hullOfPoints(points);
  const straight = boxAlong(points, STRAIGHT);
  if (!hull) return straight.corners;
  let best = { ...straight, volume: straight.volume * ASKEW_PAYS };
  const step = Math.max(1, Math.floor(hull.corners.length / 3 / MOST_FACES)) * 3;
  for (let t = 0; t + 2 < hull.corners.length; t += step) {
    const [a, b, c] = [0, 1, 2].map((k) => new Vector3().fromArray(hull.points, hull.corners[t + k] * 3));
    const normal = b.clone().sub(a).cross(c.clone().sub(a));
    for (const edge of [b.clone().sub(a), c.clone().sub(b), a.clone().sub(c)]) {
      const x = edge.normalize();
      const z = normal.clone().normalize();
      if (x.lengthSq() < 0.5 || z.lengthSq() < 0.5) continue;
      const box = boxAlong(hull.points, [x, z.clone().cross(x), z]);
      if (box.volume < best.volume) best = box;
    }
  }
  return best.corners;
}

const STRAIGHT = [new Vector3(1, 0, 0), new Vector3(0, 1, 0), new Vector3(0, 0, 1)];

function boxAlong(
  points: ArrayLike<number>,
  axes: readonly Vector3[],
): { corners: Float64Array; volume: number } {
  const min = [Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i + 2 < points.length; i += 3)
    for (let k = 0; k < 3; k += 1) {
      const { x, y, z } = axes[k];
      const along = points[i] * x + points[i + 1] * y + points[i + 2] * z;
      if (along < min[k]) min[k] = along;
      if (along > max[k]) max[k] = along;
    }
  const corners = Float64Array.from(
    Array.from({ length: 8 }, (_, i) => {
      const place = new Vector3();
      for (let k = 0; k < 3; k += 1) place.addScaledVector(axes[k], ((i >> k) & 1 ? max : min)[k]);
      return place.toArray();
    }).flat(),
  );
  return { corners, volume: (max[0] - min[0]) * (max[1] - min[1]) * (max[2] - min[2]) };
}
