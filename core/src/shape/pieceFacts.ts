import type { PolygonMesh } from '../scene/document.ts';
import { CUTS, type CutBy } from '../scene/partChange.ts';
import { facesOfPieces, piecesOf } from '../scene/pieces.ts';
import { type Form, formOf } from './form.ts';

/**
 * What a mesh falls apart into; past {@link MOST_PIECES} only their number, nothing where it stays whole.
 * Plain JSON.
 */
export type PieceFacts = Record<CutBy, { faces: number; slots: number[]; form: Form }[] | number>;

/** More pieces than these are cut, but not listed beforehand. */
export const MOST_PIECES = 2000;

/**
 * `places` are those of the points; `whole` says that all faces hang together by their edges, which is known
 * already.
 */
export function measurePieces(
  mesh: PolygonMesh,
  areas: Float64Array,
  { places, whole }: { places: Uint32Array; whole: boolean },
): { form: Form; pieces: PieceFacts } {
  const starts = new Uint32Array(mesh.faceCounts.length + 1);
  for (let face = 0; face < mesh.faceCounts.length; face += 1)
    starts[face + 1] = starts[face] + mesh.faceCounts[face];
  const measured = { starts, areas };
  const pieces = Object.fromEntries(
    CUTS.map((by) => {
      // Faces that share edges share places.
      if (by === 'solids' && whole) return [by, []];
      const fallen = piecesOf(mesh, by, places);
      if (fallen.count < 2) return [by, []];
      if (fallen.count > MOST_PIECES) return [by, fallen.count];
      return [
        by,
        facesOfPieces(fallen).map((faces) => ({
          faces: faces.length,
          slots: slotsOf(mesh, faces),
          form: formOf(mesh, faces, measured),
        })),
      ];
    }),
  ) as PieceFacts;
  return { form: formOf(mesh, null, measured), pieces };
}

function slotsOf({ faceMaterial }: PolygonMesh, faces: readonly number[]): number[] {
  if (!faceMaterial) return [0];
  return [...new Set(faces.map((face) => faceMaterial[face]))].sort((a, b) => a - b);
}
