import { measureShape } from '@kinkajou/core/shape/shapeFacts';
import { gridDocument } from './grid.ts';

/** A mesh of squares, in triangles. */
export type Sheet = ReturnType<typeof gridDocument>['meshes'][number];

/** A sheet of about so many triangles. */
export function sheetOf(triangles: number): Sheet {
  return gridDocument(triangles).meshes[0];
}

/**
 * All facts of a mesh: closed or open, winding, normals, UVs, doubled faces, bounds, oriented size, balance.
 */
export function measureOurs(sheet: Sheet): number {
  return measureShape(sheet).area;
}

/** A bare pass over the corners: area, signed volume and bounds, each face as a fan of triangles. */
export function measureBare({ points, faceCounts, faceCorners }: Sheet): number {
  const [min, max] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  let [area, volume] = [0, 0];
  for (let face = 0, first = 0; face < faceCounts.length; first += faceCounts[face], face += 1) {
    const a = faceCorners[first] * 3;
    for (let k = 0; k < 3; k += 1) {
      min[k] = Math.min(min[k], points[a + k]);
      max[k] = Math.max(max[k], points[a + k]);
    }
    for (let corner = 1; corner + 1 < faceCounts[face]; corner += 1) {
      const [b, c] = [faceCorners[first + corner] * 3, faceCorners[first + corner + 1] * 3];
      const [ux, uy, uz] = [
        points[b] - points[a],
        points[b + 1] - points[a + 1],
        points[b + 2] - points[a + 2],
      ];
      const [vx, vy, vz] = [
        points[c] - points[a],
        points[c + 1] - points[a + 1],
        points[c + 2] - points[a + 2],
      ];
      const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
      area += Math.sqrt(nx * nx + ny * ny + nz * nz) / 2;
      volume += (points[a] * nx + points[a + 1] * ny + points[a + 2] * nz) / 6;
    }
  }
  // All three are used, or they would not be worked out.
  return area + volume + max[0] - min[0];
}
