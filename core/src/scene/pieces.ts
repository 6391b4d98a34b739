import type { PolygonMesh } from './document.ts';
import type { CutBy } from './partChange.ts';
import { solidsOf } from './solids.ts';

/** The piece that each face of a mesh belongs to, from 0 on, and how many there are. */
export interface Pieces {
  piece: ArrayLike<number>;
  count: number;
  /** By piece, the material slot of its faces; only where it is cut by them. */
  slots: number[];
}

/**
 * How a mesh falls apart: by the slots of its materials in their order, or into its solids by their first
 * face; `places` are those of its points, where they are known.
 */
export function piecesOf(mesh: PolygonMesh, by: CutBy, places?: Uint32Array): Pieces {
  if (by === 'solids') {
    const { solid, count } = solidsOf(mesh, places);
    return { piece: solid, count, slots: [] };
  }
  const used = new Set<number>();
  const { faceMaterial } = mesh;
  if (!faceMaterial)
    return {
      piece: new Uint32Array(mesh.faceCounts.length),
      count: mesh.faceCounts.length > 0 ? 1 : 0,
      slots: [0],
    };
  for (const slot of faceMaterial) used.add(slot);
  const slots = [...used].sort((a, b) => a - b);
  const numbers = new Map(slots.map((slot, i) => [slot, i]));
  return {
    piece: Uint32Array.from(faceMaterial, (slot) => numbers.get(slot) ?? 0),
    count: slots.length,
    slots,
  };
}

/** Faces of each piece, in their order. */
export function facesOfPieces({ piece, count }: Pieces): number[][] {
  const faces = Array.from({ length: count }, (): number[] => []);
  for (let face = 0; face < piece.length; face += 1) faces[piece[face]].push(face);
  return faces;
}
