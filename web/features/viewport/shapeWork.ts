import { collisionOf } from '@kinkajou/core/scene/collision';
import { createMesh, type PolygonMesh } from '@kinkajou/core/scene/document';
import { mergeMeshes } from '@kinkajou/core/scene/mergeMeshes';
import type { Collision } from '@kinkajou/core/scene/partChange';
import { type FaceFault, faultyFaces } from '@kinkajou/core/shape/faultyFaces';

/** Triangles of one material of a part, as the view holds them. */
export interface Piece {
  points: Float32Array;
  /** Corners, three a triangle. */
  corners: Uint32Array;
  normals: Float32Array | null;
  uvs: Float32Array | null;
}

export type ShapeRequest = { id: number; pieces: Piece[] } & (
  | { kind: 'faults'; faults: FaceFault[] }
  | { kind: 'collision'; collision: Collision }
);

/**
 * Per piece a mark for each triangle that has the fault; or the edges of a shape for collision, two places
 * each, and its triangles.
 */
export type ShapeAnswer = { id: number } & (
  | { kind: 'faults'; marks: Uint8Array[] }
  | { kind: 'collision'; lines: Float32Array; triangles: number }
);

export async function answerShape(request: ShapeRequest): Promise<ShapeAnswer> {
  const { id } = request;
  const mesh = joined(request.pieces);
  if (request.kind === 'collision')
    return { id, kind: 'collision', ...outlineOf(await collisionOf(mesh, request.collision, '')) };
  return { id, kind: 'faults', marks: byPiece(firstFound(mesh, request.faults), request.pieces) };
}

/** Marks of the first of several faults that any face has. */
function firstFound(mesh: PolygonMesh, faults: readonly FaceFault[]): Uint8Array {
  for (const fault of faults) {
    const marks = faultyFaces(mesh, fault);
    if (marks.includes(1)) return marks;
  }
  return new Uint8Array(mesh.faceCounts.length);
}

/** The materials of a part are one body. */
function joined(pieces: readonly Piece[]): PolygonMesh {
  return mergeMeshes(
    '',
    pieces.map((piece, slot) => ({ mesh: meshOf(piece), slots: [slot] })),
  );
}

function meshOf({ points, corners, normals, uvs }: Piece): PolygonMesh {
  const layer = <Size extends 2 | 3>(values: Float32Array, size: Size) => ({
    name: '',
    size,
    domain: 'point' as const,
    values: Float64Array.from(values),
    index: null,
  });
  return createMesh('', {
    points: Float64Array.from(points),
    faceCounts: new Uint32Array(corners.length / 3).fill(3),
    faceCorners: corners,
    normals: normals && layer(normals, 3),
    uvSets: uvs ? [layer(uvs, 2)] : [],
  });
}

function byPiece(marks: Uint8Array, pieces: readonly Piece[]): Uint8Array[] {
  let first = 0;
  return pieces.map(({ corners }) => {
    const own = marks.slice(first, first + corners.length / 3);
    first += own.length;
    return own;
  });
}

/** Each edge of each shape once. */
function outlineOf(shapes: readonly PolygonMesh[]): { lines: Float32Array; triangles: number } {
  const lines: number[] = [];
  let triangles = 0;
  for (const { points, faceCounts, faceCorners } of shapes) {
    const passed = new Set<number>();
    let first = 0;
    for (const count of faceCounts) {
      triangles += Math.max(0, count - 2);
      for (let k = 0; k < count; k += 1) {
        const [a, b] = [faceCorners[first + k], faceCorners[first + ((k + 1) % count)]];
        const edge = Math.min(a, b) * (points.length / 3) + Math.max(a, b);
        if (passed.has(edge)) continue;
        passed.add(edge);
        for (const corner of [a, b])
          lines.push(points[corner * 3], points[corner * 3 + 1], points[corner * 3 + 2]);
      }
      first += count;
    }
  }
  return { lines: Float32Array.from(lines), triangles };
}
