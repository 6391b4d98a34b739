import { areaVector, cutPolygon, squaredDistance, triangleArea } from './cutPolygon.ts';
import type { Layer, PolygonMesh } from './document.ts';

/** A mesh's polygons as triangles. */
export interface Triangulation {
  /** Corner indices (positions in `faceCorners`), three per triangle. */
  corners: Uint32Array;
  /** Face of each triangle. */
  faces: Uint32Array;
}

/**
 * Cuts every polygon into triangles, keeping its winding. Triangles pass through, convex quads are cut along
 * the shorter diagonal, everything else goes through ear clipping in the polygon's own plane. A polygon of n
 * corners always gives n - 2 triangles, so counts stay predictable; faces under three corners give none.
 */
export function triangulate(mesh: PolygonMesh): Triangulation {
  let total = 0;
  for (const count of mesh.faceCounts) total += Math.max(0, count - 2);
  const corners = new Uint32Array(total * 3);
  const faces = new Uint32Array(total);
  let triangle = 0;
  let first = 0;
  const emit = (face: number, a: number, b: number, c: number) => {
    corners[triangle * 3] = first + a;
    corners[triangle * 3 + 1] = first + b;
    corners[triangle * 3 + 2] = first + c;
    faces[triangle] = face;
    triangle += 1;
  };
  for (let face = 0; face < mesh.faceCounts.length; face += 1) {
    const count = mesh.faceCounts[face];
    if (count === 3) emit(face, 0, 1, 2);
    else if (count > 3) {
      const cut =
        count === 4 ? cutQuad(mesh, first) : cutPolygon(mesh, first, count, faceNormal(mesh, first, count));
      for (let i = 0; i < cut.length; i += 3) emit(face, cut[i], cut[i + 1], cut[i + 2]);
    }
    first += count;
  }
  return { corners, faces };
}

/** The mesh with every polygon cut into triangles; layers follow their corners and faces. */
export function toTriangles(mesh: PolygonMesh): PolygonMesh {
  const { corners, faces } = triangulate(mesh);
  const follow = (layer: Layer): Layer => {
    if (layer.domain === 'point') return layer;
    const from = layer.domain === 'corner' ? corners : faces;
    const { index } = layer;
    return { ...layer, index: index ? Uint32Array.from(from, (offset) => index[offset]) : from.slice() };
  };
  return {
    ...mesh,
    faceCounts: new Uint32Array(faces.length).fill(3),
    faceCorners: Uint32Array.from(corners, (corner) => mesh.faceCorners[corner]),
    faceMaterial:
      mesh.faceMaterial && Int32Array.from(faces, (face) => (mesh.faceMaterial as Int32Array)[face]),
    faceSmoothing:
      mesh.faceSmoothing && Int32Array.from(faces, (face) => (mesh.faceSmoothing as Int32Array)[face]),
    normals: mesh.normals && follow(mesh.normals),
    tangents: mesh.tangents && follow(mesh.tangents),
    uvSets: mesh.uvSets.map(follow),
    colours: mesh.colours.map(follow),
  };
}

const SPLIT_02 = [0, 1, 2, 0, 2, 3];
const SPLIT_13 = [0, 1, 3, 1, 2, 3];

/** Of a quad that is bent out of its plane one cut may take so much less area than the other. */
const LESS = 0.99;

function cutQuad(mesh: PolygonMesh, first: number): readonly number[] {
  const normal = faceNormal(mesh, first, 4);
  let [dent, dents] = [0, 0];
  for (let i = 0; i < 4; i += 1)
    if (turn(mesh, first, normal, AROUND[i]) < 0) {
      dent = i;
      dents += 1;
    }
  if (dents === 1) return dent % 2 === 0 ? SPLIT_02 : SPLIT_13;
  if (dents === 0 && !isBent(mesh, first, normal)) return shorterCut(mesh, first);
  const along = triangleArea(mesh, first, HALVES[0]) + triangleArea(mesh, first, HALVES[1]);
  const across = triangleArea(mesh, first, HALVES[2]) + triangleArea(mesh, first, HALVES[3]);
  if (along < across * LESS) return SPLIT_02;
  return across < along * LESS ? SPLIT_13 : shorterCut(mesh, first);
}

/** Quads whose corners lie by this share of their width out of one plane are bent enough to tell two cuts. */
const BENT = 0.02;

function isBent({ points, faceCorners }: PolygonMesh, first: number, [x, y, z]: Three): boolean {
  const [a, b] = [faceCorners[first] * 3, faceCorners[first + 1] * 3];
  const depth = Math.abs(
    x * (points[b] - points[a]) + y * (points[b + 1] - points[a + 1]) + z * (points[b + 2] - points[a + 2]),
  );
  const length = Math.sqrt(x * x + y * y + z * z);
  return depth > BENT * length * Math.sqrt(length);
}

function shorterCut(mesh: PolygonMesh, first: number): readonly number[] {
  return squaredDistance(mesh, first, first + 2) <= squaredDistance(mesh, first + 1, first + 3)
    ? SPLIT_02
    : SPLIT_13;
}

type Three = readonly [number, number, number];
/** Each corner of a quad between its neighbours, and the halves of both cuts. */
const AROUND: readonly Three[] = [
  [3, 0, 1],
  [0, 1, 2],
  [1, 2, 3],
  [2, 3, 0],
];
const HALVES: readonly Three[] = [
  [0, 1, 2],
  [0, 2, 3],
  [0, 1, 3],
  [1, 2, 3],
];

/** Newell's normal: twice the area vector, robust for n-gons that are not quite flat. */
export function faceNormal(mesh: PolygonMesh, first: number, count: number): [number, number, number] {
  let nx = 0;
  let ny = 0;
  let nz = 0;
  let a = mesh.faceCorners[first + count - 1] * 3;
  for (let i = 0; i < count; i += 1) {
    const b = mesh.faceCorners[first + i] * 3;
    nx += (mesh.points[a + 1] - mesh.points[b + 1]) * (mesh.points[a + 2] + mesh.points[b + 2]);
    ny += (mesh.points[a + 2] - mesh.points[b + 2]) * (mesh.points[a] + mesh.points[b]);
    nz += (mesh.points[a] - mesh.points[b]) * (mesh.points[a + 1] + mesh.points[b + 1]);
    a = b;
  }
  return [nx, ny, nz];
}

/** Above 0 where the outline turns left in the middle one of three corners, seen against the normal. */
function turn(mesh: PolygonMesh, first: number, normal: Three, corners: Three): number {
  const looks = areaVector(mesh, first, corners);
  return looks[0] * normal[0] + looks[1] * normal[1] + looks[2] * normal[2];
}
