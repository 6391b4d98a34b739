import { createMesh, type PolygonMesh } from '../scene/document.ts';

/**
 * Quads of a box that look outwards, over corners of which bit k says whether it lies at the far side of axis
 * k.
 */
export const BOX_QUADS: readonly (readonly number[])[] = [
  [0, 4, 6, 2],
  [1, 3, 7, 5],
  [0, 1, 5, 4],
  [2, 6, 7, 3],
  [0, 2, 3, 1],
  [4, 5, 7, 6],
];

/** The corners of a cube in that order, as x, y, z. */
export function boxPoints(min: number, max: number): number[] {
  return Array.from({ length: 8 }, (_, i) => [0, 1, 2].map((axis) => ((i >> axis) & 1 ? max : min))).flat();
}

/** A mesh of polygons over points. */
export function meshOf(
  points: number[],
  faces: readonly (readonly number[])[],
  parts: Partial<PolygonMesh> = {},
): PolygonMesh {
  return createMesh('crate', {
    points: Float64Array.from(points),
    faceCounts: Uint32Array.from(faces, (face) => face.length),
    faceCorners: Uint32Array.from(faces.flat()),
    ...parts,
  });
}
