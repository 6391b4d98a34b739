import { MeshoptSimplifier } from 'meshoptimizer';
import type { PolygonMesh } from './document.ts';
import { placesOf } from './solids.ts';
import { triangulate } from './triangulate.ts';

/** No place may move by more than this share of the part's size: asked for too little, a box would vanish. */
const MOST_ERROR = 0.1;

/**
 * Fewer triangles that keep to the shape: edges collapse, those first whose loss is seen least, until the
 * share stays or more would be lost than may be. Corners in one place are one, so that seams of UVs do not
 * tear.
 */
export async function thinned(
  mesh: PolygonMesh,
  keep: number,
): Promise<Pick<PolygonMesh, 'points' | 'faceCounts' | 'faceCorners'>> {
  await MeshoptSimplifier.ready;
  const places = placesOf(mesh.points);
  const corners = triangulate(mesh).corners.map((corner) => places[mesh.faceCorners[corner]]);
  const target = Math.max(1, Math.round((corners.length / 3) * keep)) * 3;
  const [left] = MeshoptSimplifier.simplify(
    Uint32Array.from(corners),
    fromFirst(mesh.points),
    3,
    target,
    MOST_ERROR,
  );
  return { ...onlyUsed(mesh.points, left), faceCounts: new Uint32Array(left.length / 3).fill(3) };
}

/** Single floats tell far places coarsely, so that they are counted from the first point. */
function fromFirst(points: ArrayLike<number>): Float32Array {
  return Float32Array.from({ length: points.length }, (_, i) => points[i] - points[i % 3]);
}

function onlyUsed(
  points: ArrayLike<number>,
  corners: Uint32Array,
): Pick<PolygonMesh, 'points' | 'faceCorners'> {
  const numbers = new Map<number, number>();
  const faceCorners = corners.map((point) => {
    const number = numbers.get(point) ?? numbers.size;
    numbers.set(point, number);
    return number;
  });
  const keptCorners = [...numbers.keys()].flatMap((point) => [
    points[point * 3],
    points[point * 3 + 1],
    points[point * 3 + 2],
  ]);
  return { points: Float64Array.from(keptCorners), faceCorners };
}
