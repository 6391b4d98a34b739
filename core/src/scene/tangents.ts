import { type Layer, layerEntry, type PolygonMesh, type Vec3 } from './document.ts';
import { determinant3, type Matrix4 } from './matrix.ts';
import { cross, dot } from './vectors.ts';

/**
 * Tangents with their signs, of a mesh that has its normals and UVs: as they are written where there are four
 * numbers, by the binormals where a file has these, else by how the first UV set lies on each face, since on
 * a mirrored one the image's up is the other way round.
 */
export function withSigns(mesh: PolygonMesh, tangents: Layer | null, binormals: Layer | null): Layer | null {
  if (!tangents || tangents.size === 4) return tangents;
  const values = new Float64Array(mesh.faceCorners.length * 4);
  eachCorner(mesh, (corner, face, first) => {
    const tangent = vectorAt(mesh, tangents, corner, face);
    const normal = mesh.normals && vectorAt(mesh, mesh.normals, corner, face);
    const up = binormals && normal ? upward(normal, tangent, vectorAt(mesh, binormals, corner, face)) : 0;
    for (let k = 0; k < 3; k += 1) values[corner * 4 + k] = tangent[k];
    values[corner * 4 + 3] = Math.sign(up) || uvSign(mesh, first, face);
  });
  return { name: tangents.name, size: 4, domain: 'corner', values, index: null };
}

/** The frames of a mesh as two lists of vectors; binormals only where there are normals to make them of. */
export function tangentFrames(mesh: PolygonMesh): { tangents: Layer; binormals: Layer | null } | null {
  const { tangents, normals } = mesh;
  if (!tangents) return null;
  const along = new Float64Array(mesh.faceCorners.length * 3);
  const up = new Float64Array(along.length);
  eachCorner(mesh, (corner, face) => {
    const tangent = vectorAt(mesh, tangents, corner, face);
    const sign = tangents.values[entryOf(mesh, tangents, corner, face) + 3];
    for (let k = 0; k < 3; k += 1) along[corner * 3 + k] = tangent[k];
    if (!normals) return;
    const binormal = cross(vectorAt(mesh, normals, corner, face), tangent);
    for (let k = 0; k < 3; k += 1) up[corner * 3 + k] = binormal[k] * sign;
  });
  const layer = (name: string, values: Float64Array): Layer => ({
    name,
    size: 3,
    domain: 'corner',
    values,
    index: null,
  });
  return { tangents: layer(tangents.name, along), binormals: normals && layer('binormals', up) };
}

/**
 * Tangents, x, y, z and sign each, under a matrix: they run along the surface and so follow the matrix itself,
 * and have length 1 again; under a mirror their sign turns.
 */
export function turnTangents(tangents: ArrayLike<number>, m: Matrix4): Float64Array {
  const mirror = determinant3(m) < 0 ? -1 : 1;
  const out = new Float64Array(tangents.length);
  for (let i = 0; i + 3 < out.length; i += 4) {
    const [x, y, z] = [tangents[i], tangents[i + 1], tangents[i + 2]];
    const turned = [0, 1, 2].map((row) => m[row] * x + m[4 + row] * y + m[8 + row] * z);
    const length = Math.hypot(turned[0], turned[1], turned[2]) || 1;
    for (let k = 0; k < 3; k += 1) out[i + k] = turned[k] / length;
    out[i + 3] = tangents[i + 3] * mirror;
  }
  return out;
}

/** Corners whose tangent has no length, is no number, or runs along the normal: no frame stands there. */
export function unsoundTangents(mesh: PolygonMesh): number {
  const { tangents, normals } = mesh;
  if (!tangents) return 0;
  let corners = 0;
  eachCorner(mesh, (corner, face) => {
    const [t, from] = [tangents.values, entryOf(mesh, tangents, corner, face)];
    const [x, y, z] = [t[from], t[from + 1], t[from + 2]];
    const length = x * x + y * y + z * z;
    let across = length;
    if (normals) {
      const [n, at] = [normals.values, entryOf(mesh, normals, corner, face)];
      const [a, b, c] = [n[at], n[at + 1], n[at + 2]];
      const [u, v, w] = [b * z - c * y, c * x - a * z, a * y - b * x];
      across = (u * u + v * v + w * w) / (a * a + b * b + c * c || 1);
    }
    // A thousandth of a radian.
    if (!(length > 0 && length < Infinity && across > length / 1e6)) corners += 1;
  });
  return corners;
}

function upward(normal: Vec3, tangent: Vec3, binormal: Vec3): number {
  return dot(cross(normal, tangent), binormal);
}

/** -1 where the first UV set lies mirrored on a face, whose corners run against the clock. */
function uvSign({ uvSets, faceCounts, faceCorners }: PolygonMesh, first: number, face: number): 1 | -1 {
  const [uv] = uvSets;
  if (!uv) return 1;
  const count = faceCounts[face];
  const at = (i: number) => {
    const corner = first + (i % count);
    const entry = layerEntry(uv, corner, faceCorners[corner], face) * uv.size;
    return [uv.values[entry], uv.values[entry + 1]];
  };
  let area = 0;
  for (let i = 0; i < count; i += 1) {
    const [[u, v], [nextU, nextV]] = [at(i), at(i + 1)];
    area += u * nextV - nextU * v;
  }
  return area < 0 ? -1 : 1;
}

function eachCorner(
  { faceCounts }: PolygonMesh,
  visit: (corner: number, face: number, first: number) => void,
): void {
  let first = 0;
  for (let face = 0; face < faceCounts.length; face += 1) {
    const end = first + faceCounts[face];
    for (let corner = first; corner < end; corner += 1) visit(corner, face, first);
    first = end;
  }
}

/** Where the numbers of a corner begin in a layer's values. */
function entryOf({ faceCorners }: PolygonMesh, layer: Layer, corner: number, face: number): number {
  return layerEntry(layer, corner, faceCorners[corner], face) * layer.size;
}

function vectorAt(mesh: PolygonMesh, layer: Layer, corner: number, face: number): Vec3 {
  const { values } = layer;
  const index = entryOf(mesh, layer, corner, face);
  return [values[index], values[index + 1], values[index + 2]];
}
