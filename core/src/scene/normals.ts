import type { Layer, PolygonMesh } from './document.ts';
import { placesOf } from './solids.ts';
import { faceNormal } from './triangulate.ts';

/** The normal of corners without one. */
const UP = [0, 0, 1];

/**
 * Normals per corner, smooth across the faces that meet at a place at less than an angle in degrees. Each
 * face weighs by its area; points at one place count as one.
 */
export function normalsByAngle(mesh: PolygonMesh, angle: number): Layer {
  const { faceCounts, faceCorners } = mesh;
  const places = placesOf(mesh.points);
  const faces = new Float64Array(faceCounts.length * 3);
  const lengths = new Float64Array(faceCounts.length);
  const starts = new Uint32Array(places.length + 1);
  let first = 0;
  for (let face = 0; face < faceCounts.length; face += 1) {
    const normal = faceNormal(mesh, first, faceCounts[face]);
    for (let k = 0; k < 3; k += 1) faces[face * 3 + k] = normal[k];
    lengths[face] = Math.hypot(normal[0], normal[1], normal[2]);
    for (let corner = first; corner < first + faceCounts[face]; corner += 1)
      starts[places[faceCorners[corner]] + 1] += 1;
    first += faceCounts[face];
  }
  for (let place = 0; place < places.length; place += 1) starts[place + 1] += starts[place];
  const around = new Uint32Array(faceCorners.length);
  const filled = starts.slice();
  const eachCorner = (visit: (face: number, corner: number) => void) => {
    let corner = 0;
    for (let face = 0; face < faceCounts.length; face += 1)
      for (let i = 0; i < faceCounts[face]; i += 1, corner += 1) visit(face, corner);
  };
  eachCorner((face, corner) => {
    const place = places[faceCorners[corner]];
    around[filled[place]] = face;
    filled[place] += 1;
  });
  const least = Math.cos((Math.min(180, angle) * Math.PI) / 180) - 1e-9;
  const values = new Float64Array(faceCorners.length * 3);
  eachCorner((face, corner) => {
    const place = places[faceCorners[corner]];
    const sum = [0, 0, 0];
    for (let i = starts[place]; i < starts[place + 1]; i += 1) {
      const other = around[i];
      const along =
        faces[face * 3] * faces[other * 3] +
        faces[face * 3 + 1] * faces[other * 3 + 1] +
        faces[face * 3 + 2] * faces[other * 3 + 2];
      if (other !== face && !(along >= least * lengths[face] * lengths[other])) continue;
      for (let k = 0; k < 3; k += 1) sum[k] += faces[other * 3 + k];
    }
    const length = Math.hypot(sum[0], sum[1], sum[2]);
    values.set(length > 0 ? [sum[0] / length, sum[1] / length, sum[2] / length] : UP, corner * 3);
  });
  return { name: 'computed', size: 3, domain: 'corner', values, index: null };
}

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
    const sum =
      group === 0
        ? faces.subarray(face * 3, face * 3 + 3)
        : (sums.get(key(group, faceCorners[corner])) as Float64Array);
    const length = Math.hypot(sum[0], sum[1], sum[2]);
    values.set(length > 0 ? [sum[0] / length, sum[1] / length, sum[2] / length] : UP, corner * 3);
  });
  return { name: 'computed', size: 3, domain: 'corner', values, index: null };
}
