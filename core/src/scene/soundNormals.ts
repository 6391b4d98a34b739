import { layerEntry, type PolygonMesh, type Vec3 } from './document.ts';
import { faceNormal } from './triangulate.ts';
import { normalised } from './vectors.ts';

/**
 * The mesh with normals that all point somewhere: a corner whose own has no length, or is no number, gets its
 * face's. The mesh itself where all do, or where it has none; `corners` tells how many did not.
 */
export function withSoundNormals(mesh: PolygonMesh): { mesh: PolygonMesh; corners: number } {
  const { normals, faceCounts, faceCorners } = mesh;
  if (!normals) return { mesh, corners: 0 };
  const { values: given } = normals;
  let values: Float64Array | null = null;
  let corners = 0;
  let first = 0;
  for (let face = 0; face < faceCounts.length; face += 1) {
    const end = first + faceCounts[face];
    for (let corner = first; corner < end; corner += 1) {
      const from = layerEntry(normals, corner, faceCorners[corner], face) * 3;
      const length = Math.hypot(given[from], given[from + 1], given[from + 2]);
      if (length > 0 && length < Infinity) continue;
      values ??= spread(mesh);
      values.set(normalOf(mesh, first, faceCounts[face]), corner * 3);
      corners += 1;
    }
    first = end;
  }
  return values === null
    ? { mesh, corners }
    : {
        mesh: { ...mesh, normals: { name: normals.name, size: 3, domain: 'corner', values, index: null } },
        corners,
      };
}

/** Below this share of its longest side squared the area of a face is what rounding left of none. */
const NO_AREA = 1e-9;

/** The normal of a face, the same in every unit; +Z where it has no area. */
function normalOf(mesh: PolygonMesh, first: number, count: number): Vec3 {
  const { points, faceCorners } = mesh;
  let longest = 0;
  for (let i = 0; i < count; i += 1) {
    const [a, b] = [faceCorners[first + i] * 3, faceCorners[first + ((i + 1) % count)] * 3];
    const side = [0, 1, 2].reduce((sum, k) => sum + (points[a + k] - points[b + k]) ** 2, 0);
    longest = Math.max(longest, side);
  }
  const ofFace = faceNormal(mesh, first, count);
  return Math.hypot(...ofFace) > NO_AREA * longest ? normalised(ofFace, [0, 0, 1]) : [0, 0, 1];
}

/** The normals of a mesh, written out for each corner. */
function spread({ normals, faceCounts, faceCorners }: PolygonMesh): Float64Array {
  const values = new Float64Array(faceCorners.length * 3);
  if (!normals) return values;
  let corner = 0;
  for (let face = 0; face < faceCounts.length; face += 1)
    for (let i = 0; i < faceCounts[face]; i += 1, corner += 1) {
      const from = layerEntry(normals, corner, faceCorners[corner], face) * 3;
      for (let k = 0; k < 3; k += 1) values[corner * 3 + k] = normals.values[from + k];
    }
  return values;
}
