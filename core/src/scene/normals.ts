import type { Layer, PolygonMesh } from './document.ts';
import { faceNormal } from './triangulate.ts';

/**
 * Normals for a mesh that has none, per corner: smooth across faces that share a point and a smoothing group,
 * flat where the group is 0 or nothing is said. Each face weighs by its area.
 */
export function computeNormals(mesh: PolygonMesh): Layer {
  const { faceCounts, faceCorners, faceSmoothing } = mesh;
  const faces = new Float64Array(faceCounts.length * 3);
  let first = 0;
  for (let face = 0; face < faceCounts.length; face += 1) {
    faces.set(faceNormal(mesh, first, faceCounts[face]), face * 3);
    first += faceCounts[face];
  }
  const sums = new Map<number, Float64Array>();
  const points = mesh.points.length / 3;
  const key = (group: number, point: number) => group * points + point;
  const eachCorner = (visit: (face: number, corner: number, group: number) => void) => {
    let corner = 0;
    for (let face = 0; face < faceCounts.length; face += 1) {
      const group = faceSmoothing?.[face] ?? 0;
      for (let i = 0; i < faceCounts[face]; i += 1, corner += 1) visit(face, corner, group);
    }
  };
  eachCorner((face, corner, group) => {
    if (group === 0) return;
    const index = key(group, faceCorners[corner]);
    const sum = sums.get(index) ?? new Float64Array(3);
    for (let k = 0; k < 3; k += 1) sum[k] += faces[face * 3 + k];
    sums.set(index, sum);
  });
  const values = new Float64Array(faceCorners.length * 3);
  eachCorner((face, corner, group) => {
    const sum = group === 0 ? faces.subarray(face * 3, face * 3 + 3) : (sums.get(key(group, faceCorners[corner])) as Float64Array);
    const length = Math.hypot(sum[0], sum[1], sum[2]);
    for (let k = 0; k < 3; k += 1) values[corner * 3 + k] = length > 0 ? sum[k] / length : k === 2 ? 1 : 0;
  });
  return { name: 'computed', size: 3, domain: 'corner', values, index: null };
}
