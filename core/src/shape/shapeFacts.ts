import type { Layer, PolygonMesh, Vec3 } from '../scene/document.ts';
import { layerEntry } from '../scene/document.ts';
import { type Bounds, shownPoints } from '../scene/measure.ts';
import { placesOf } from '../scene/solids.ts';
import { cross, dot } from '../scene/vectors.ts';
import type { Form } from './form.ts';
import { measurePieces, type PieceFacts } from './pieceFacts.ts';
import { findDoubled, type Topology, walkEdges } from './topology.ts';
import { measureUvs, type SlotUvs } from './uvFacts.ts';

/**
 * What the geometry of a mesh says of itself, in the document's units and the mesh's own space. Plain JSON.
 */
export interface ShapeFacts {
  faces: number;
  area: number;
  /** Of the bodies that close; null where none does. */
  volume: number | null;
  solids: number;
  /** Solids without an open edge. */
  closed: number;
  openEdges: number;
  /** Edges whose two faces disagree about their side. */
  mixedEdges: number;
  /** Closed solids whose faces look inwards, and that are not the inner wall of another. */
  inward: { solids: number; faces: number };
  /**
   * Whether normals are written, the share of the area whose normals point against its winding, and how many
   * are none.
   */
  normals: { written: boolean; against: number; broken: number };
  /** Faces without area. */
  degenerate: number;
  /** Faces upon others: the same way round, and back to back. */
  doubled: { same: number; turned: number };
  bounds: Bounds | null;
  /** Where it balances: the middle of its volume, or of its area where nothing closes. */
  balance: Vec3 | null;
  subdivided: boolean;
  /** Of each material slot that has faces. */
  uvs: SlotUvs[];
  /** Absent from assets that were read before it was measured, as are the pieces. */
  form?: Form;
  pieces?: PieceFacts;
}

/** Heights below this share of the longest edge are none. */
const THIN = 1e-6;
/** Normals of lengths within this of 1 are of length 1: eight bits round by less. */
const LENGTH = 0.02;
/** A corner's normals point against their face from here on; flat shading of cards leaves them across it. */
export const AGAINST = -0.1;

/** Measures a mesh. Linear in its corners; no object per point or face. */
export function measureShape(mesh: PolygonMesh): ShapeFacts {
  const places = placesOf(mesh.points);
  const faces = measureFaces(mesh);
  const doubled = findDoubled(mesh, places, faces.degenerate);
  const topology = walkEdges(mesh, places, doubled);
  const { inwardSolids: _, ...bodies } = measureSolids(mesh, topology, faces, doubled);
  const normals = mesh.normals
    ? measureNormals(mesh, mesh.normals, faces)
    : { written: false, against: 0, broken: 0 };
  const sum = (list: ArrayLike<number>, test: (value: number) => boolean) => {
    let count = 0;
    for (let i = 0; i < list.length; i += 1) if (test(list[i])) count += 1;
    return count;
  };
  return {
    faces: mesh.faceCounts.length,
    area: faces.total,
    ...bodies,
    openEdges: topology.open.reduce((total, count) => total + count, 0),
    mixedEdges: topology.mixed.reduce((total, count) => total + count, 0),
    normals,
    degenerate: sum(faces.degenerate, (value) => value !== 0),
    doubled: { same: sum(doubled, (value) => value === 1), turned: sum(doubled, (value) => value === 2) },
    bounds: boundsOf(shownPoints(mesh)),
    subdivided: mesh.subdivision !== 'none',
    uvs: measureUvs(mesh, faces.areas),
    ...measurePieces(mesh, faces.areas, { places, whole: topology.solids < 2 }),
  };
}

/** Areas in square document units and directions of a mesh's faces. */
export interface FaceFacts {
  areas: Float64Array;
  /** Newell's normals, twice the area long. */
  normals: Float64Array;
  degenerate: Uint8Array;
  total: number;
}

/** Measures every face once; those without an area, or thinner than rounding, are degenerate. */
export function measureFaces({ points, faceCounts, faceCorners }: PolygonMesh): FaceFacts {
  const areas = new Float64Array(faceCounts.length);
  const normals = new Float64Array(faceCounts.length * 3);
  const degenerate = new Uint8Array(faceCounts.length);
  let total = 0;
  let first = 0;
  for (let face = 0; face < faceCounts.length; face += 1) {
    const count = faceCounts[face];
    let [nx, ny, nz, longest, far] = [0, 0, 0, 0, 0];
    const origin = faceCorners[first] * 3;
    const [ox, oy, oz] = [points[origin], points[origin + 1], points[origin + 2]];
    // Seen from a corner of its own, so that faces far from the origin keep their digits.
    let [ax, ay, az] = [0, 0, 0];
    for (let i = 1; i <= count; i += 1) {
      const index = i === count ? origin : faceCorners[first + i] * 3;
      const [bx, by, bz] = [points[index] - ox, points[index + 1] - oy, points[index + 2] - oz];
      nx += (ay - by) * (az + bz);
      ny += (az - bz) * (ax + bx);
      nz += (ax - bx) * (ay + by);
      const squared = (bx - ax) ** 2 + (by - ay) ** 2 + (bz - az) ** 2;
      if (squared > longest) longest = squared;
      ax = bx;
      ay = by;
      az = bz;
    }
    far = Math.max(Math.abs(ox), Math.abs(oy), Math.abs(oz));
    const twice = Math.sqrt(nx * nx + ny * ny + nz * nz);
    areas[face] = twice / 2;
    total += twice / 2;
    normals[face * 3] = nx;
    normals[face * 3 + 1] = ny;
    normals[face * 3 + 2] = nz;
    // Files of single precision round a place to a ten-millionth of where it lies.
    if (twice <= longest * THIN || twice <= Math.sqrt(longest) * far * 1e-7) degenerate[face] = 1;
    first += count;
  }
  return { areas, normals, degenerate, total };
}

/** Volume, balance and direction of the solids. */
export function measureSolids(mesh: PolygonMesh, topology: Topology, { areas }: FaceFacts, skip: Uint8Array) {
  const { solid, solids, open, mixed } = topology;
  const { points, faceCounts, faceCorners } = mesh;
  const volumes = new Float64Array(solids);
  const moments = new Float64Array(solids * 3);
  const faceTotals = new Uint32Array(solids);
  const boxes = new Float64Array(solids * 6).fill(Infinity);
  for (let i = 0; i < solids; i += 1) boxes.fill(-Infinity, i * 6 + 3, i * 6 + 6);
  const surface: Vec3 = [0, 0, 0];
  let weight = 0;
  const start = faceCorners.length > 0 ? faceCorners[0] * 3 : 0;
  const [ox, oy, oz] = points.length > 0 ? [points[start], points[start + 1], points[start + 2]] : [0, 0, 0];
  let first = 0;
  for (let face = 0; face < faceCounts.length; face += 1) {
    const count = faceCounts[face];
    const body = solid[face];
    const box = body * 6;
    if (!skip[face]) faceTotals[body] += 1;
    const a = faceCorners[first] * 3;
    const [ax, ay, az] = [points[a] - ox, points[a + 1] - oy, points[a + 2] - oz];
    let [mx, my, mz] = [0, 0, 0];
    for (let i = 0; i < count; i += 1) {
      const c = faceCorners[first + i] * 3;
      const [cx, cy, cz] = [points[c] - ox, points[c + 1] - oy, points[c + 2] - oz];
      if (cx < boxes[box]) boxes[box] = cx;
      if (cy < boxes[box + 1]) boxes[box + 1] = cy;
      if (cz < boxes[box + 2]) boxes[box + 2] = cz;
      if (cx > boxes[box + 3]) boxes[box + 3] = cx;
      if (cy > boxes[box + 4]) boxes[box + 4] = cy;
      if (cz > boxes[box + 5]) boxes[box + 5] = cz;
      mx += cx;
      my += cy;
      mz += cz;
      if (i < 2 || skip[face]) continue;
      const b = faceCorners[first + i - 1] * 3;
      const [bx, by, bz] = [points[b] - ox, points[b + 1] - oy, points[b + 2] - oz];
      const volume = (ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)) / 6;
      volumes[body] += volume;
      moments[body * 3] += (volume * (ax + bx + cx)) / 4;
      moments[body * 3 + 1] += (volume * (ay + by + cy)) / 4;
      moments[body * 3 + 2] += (volume * (az + bz + cz)) / 4;
    }
    if (count > 0) {
      weight += areas[face];
      surface[0] += (areas[face] * mx) / count;
      surface[1] += (areas[face] * my) / count;
      surface[2] += (areas[face] * mz) / count;
    }
    first += count;
  }
  const closes = (body: number) =>
    faceTotals[body] > 0 && open[body] === 0 && Math.abs(volumes[body]) > 1e-12 * spanOf(boxes, body) ** 3;
  const looksIn = (body: number) => closes(body) && mixed[body] === 0 && volumes[body] < 0;
  const bodies = Array.from({ length: solids }, (_, body) => body).filter(closes);
  const inside = findInnerWalls(bodies, { mesh, solid, volumes, boxes, origin: [ox, oy, oz] }, looksIn);
  const inward = bodies.filter((body) => looksIn(body) && !inside.has(body));
  let volume = 0;
  const moment: Vec3 = [0, 0, 0];
  for (const body of bodies) {
    // What looks inwards by mistake is a body all the same; the inner wall of another is a hole in it.
    const sign = inside.has(body) ? -1 : 1;
    volume += sign * Math.abs(volumes[body]);
    for (let k = 0; k < 3; k += 1) moment[k] += sign * Math.sign(volumes[body]) * moments[body * 3 + k];
  }
  const closed = bodies.length > 0 && volume > 0;
  const [sum, share] = closed ? [moment, volume] : [surface, weight];
  const balance = share > 0 ? sum.map((value) => value / share) : null;
  let used = 0;
  for (let body = 0; body < solids; body += 1) if (faceTotals[body] > 0) used += 1;
  return {
    solids: used,
    closed: bodies.length,
    volume: bodies.length > 0 ? volume : null,
    inwardSolids: inward,
    inward: { solids: inward.length, faces: inward.reduce((total, body) => total + faceTotals[body], 0) },
    balance: balance && ([balance[0] + ox, balance[1] + oy, balance[2] + oz] as Vec3),
  };
}

function spanOf(boxes: Float64Array, body: number): number {
  const offset = body * 6;
  return Math.hypot(
    boxes[offset + 3] - boxes[offset],
    boxes[offset + 4] - boxes[offset + 1],
    boxes[offset + 5] - boxes[offset + 2],
  );
}

interface Bodies {
  mesh: PolygonMesh;
  solid: Uint32Array;
  volumes: Float64Array;
  /** Seen from the origin below, as volumes are. */
  boxes: Float64Array;
  origin: Vec3;
}

/** More rays than this are not sent; boxes decide then. */
const MOST_FACES = 5e7;

/** Solids that look inwards and lie within one that looks outwards: a hollow body's inner walls. */
function findInnerWalls(
  all: readonly number[],
  bodies: Bodies,
  looksIn: (body: number) => boolean,
): Set<number> {
  const inner = all.filter(looksIn);
  const outer = all.filter((body) => bodies.volumes[body] > 0);
  const elements = new Set<number>();
  if (inner.length === 0 || outer.length === 0) return elements;
  const byRay = inner.length * bodies.solid.length <= MOST_FACES;
  const corner = firstCorners(bodies);
  for (const body of inner) {
    const around = outer.filter(
      (other) => boxWithin(bodies.boxes, body, other) && -bodies.volumes[body] < bodies.volumes[other],
    );
    if (around.length > 0 && (!byRay || around.some((other) => isWithin(corner[body] ?? 0, other, bodies))))
      elements.add(body);
  }
  return elements;
}

function firstCorners({ mesh, solid }: Bodies): number[] {
  const corners: number[] = [];
  let first = 0;
  mesh.faceCounts.forEach((count, face) => {
    corners[solid[face]] ??= first;
    first += count;
  });
  return corners;
}

function boxWithin(boxes: Float64Array, inner: number, outer: number): boolean {
  for (let k = 0; k < 3; k += 1) {
    if (boxes[inner * 6 + k] < boxes[outer * 6 + k] || boxes[inner * 6 + 3 + k] > boxes[outer * 6 + 3 + k])
      return false;
  }
  return true;
}

/** A ray in a direction that no edge is likely to have leaves a body once more often than it enters it. */
const RAY: Vec3 = [0.5377, 0.7135, 0.4495];

function isWithin(corner: number, outer: number, { mesh, solid }: Bodies): boolean {
  const { points, faceCounts, faceCorners } = mesh;
  const start = faceCorners[corner] * 3;
  const from: Vec3 = [points[start], points[start + 1], points[start + 2]];
  const place = (index: number): Vec3 => {
    const offset = faceCorners[index] * 3;
    return [points[offset] - from[0], points[offset + 1] - from[1], points[offset + 2] - from[2]];
  };
  let crossings = 0;
  let first = 0;
  for (let face = 0; face < faceCounts.length; face += 1) {
    if (solid[face] === outer)
      for (let i = 2; i < faceCounts[face]; i += 1)
        if (meets(place(first), place(first + i - 1), place(first + i))) crossings += 1;
    first += faceCounts[face];
  }
  return crossings % 2 === 1;
}

/** Whether the ray from the origin meets a triangle. */
function meets(a: Vec3, b: Vec3, c: Vec3): boolean {
  const [e, f] = [subtract(b, a), subtract(c, a)];
  const p = cross(RAY, f);
  const determinant = dot(e, p);
  if (determinant === 0) return false;
  const away: Vec3 = [-a[0], -a[1], -a[2]];
  const u = dot(away, p) / determinant;
  const q = cross(away, e);
  const v = dot(RAY, q) / determinant;
  return u >= 0 && v >= 0 && u + v <= 1 && dot(f, q) / determinant > 0;
}

function subtract(a: Vec3, b: Vec3): Vec3 {
  return [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
}

function measureNormals(mesh: PolygonMesh, layer: Layer, faces: FaceFacts): ShapeFacts['normals'] {
  let broken = 0;
  let against = 0;
  eachNormal(mesh, layer, faces, (face, along, brokenHere) => {
    broken += brokenHere;
    if (along < AGAINST) against += faces.areas[face];
  });
  return { written: true, against: faces.total > 0 ? against / faces.total : 0, broken };
}

/**
 * Each face with an area: how far its corners' normals point its way, from -1 to 1, and how many of them are
 * none.
 */
export function eachNormal(
  mesh: PolygonMesh,
  layer: Layer,
  faces: FaceFacts,
  visit: (face: number, along: number, broken: number) => void,
): void {
  const { faceCounts, faceCorners } = mesh;
  const { normals, areas, degenerate } = faces;
  const { values } = layer;
  let first = 0;
  for (let face = 0; face < faceCounts.length; face += 1) {
    const count = faceCounts[face];
    if (!degenerate[face]) {
      let [x, y, z, broken] = [0, 0, 0, 0];
      for (let corner = first; corner < first + count; corner += 1) {
        const entry = layerEntry(layer, corner, faceCorners[corner], face) * 3;
        if (entry / 3 === layer.none) continue;
        const length = Math.sqrt(values[entry] ** 2 + values[entry + 1] ** 2 + values[entry + 2] ** 2);
        if (!(Math.abs(length - 1) <= LENGTH)) broken += 1;
        if (!(length > 0)) continue;
        x += values[entry] / length;
        y += values[entry + 1] / length;
        z += values[entry + 2] / length;
      }
      visit(
        face,
        (x * normals[face * 3] + y * normals[face * 3 + 1] + z * normals[face * 3 + 2]) /
          (count * 2 * areas[face]),
        broken,
      );
    }
    first += count;
  }
}

function boundsOf(points: ArrayLike<number>): Bounds | null {
  const min: Vec3 = [Infinity, Infinity, Infinity];
  const max: Vec3 = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < points.length; i += 1) {
    const k = i % 3;
    if (points[i] < min[k]) min[k] = points[i];
    if (points[i] > max[k]) max[k] = points[i];
  }
  return min[0] <= max[0] ? { min, max } : null;
}
