/** What a part can be cut by: the materials of its faces, or the solids that hang together. */
export const CUTS = ['materials', 'solids'] as const;
/** One of {@link CUTS}. */
export type CutBy = (typeof CUTS)[number];

/**
 * Where a pivot can be put: the middle of the bounds, the middle of their lowest side, the scene's origin, or
 * the centre of mass.
 */
export const PIVOTS = ['centre', 'bottom', 'origin', 'balance'] as const;
/** One of {@link PIVOTS}. */
export type PivotPlace = (typeof PIVOTS)[number];

/** Shapes that stand for a part in collisions. */
export const COLLISIONS = ['none', 'box', 'orientedBox', 'hull', 'hulls', 'mesh'] as const;
/** One of {@link COLLISIONS}. */
export type CollisionShape = (typeof COLLISIONS)[number];

/** A shape for collision, and how closely it follows the part. */
export interface Collision {
  shape: CollisionShape;
  /** Of several hulls: no more than this. */
  hulls?: number;
  /** Of several hulls: a cut must spare this share of what is hulled as a whole. */
  error?: number;
  /** Of the part's own faces: the share of its triangles that stays. */
  keep?: number;
}

/** Least and most of what can be chosen, and what holds where nothing is. */
export const COLLISION_RANGES = { hulls: [1, 64], error: [0.001, 0.5], keep: [0.01, 1] } as const;
/** What holds where a collision shape leaves it open, see {@link Collision}. */
export const COLLISION_USUAL = { hulls: 16, error: 0.02, keep: 1 } as const;

/** A move, in metres and in the model's own axes. */
export interface Placement {
  /** The place that is turned and sized about. */
  about: [number, number, number];
  move: [number, number, number];
  /** Degrees about the axes of the model; about x first. */
  turn: [number, number, number];
  scale: number;
}

/**
 * One change of the model's parts. Parts are told by their keys; what a change makes gets a key of its own.
 */
export type PartChange =
  /** Left out of what goes on, with all below them. */
  | { do: 'drop'; parts: string[] }
  | { do: 'restore'; parts: string[] }
  | { do: 'rename'; names: { part: string; name: string }[] }
  /** Below another part, or below none; they stay where they are. */
  | { do: 'move'; parts: string[]; under: string | null }
  | { do: 'group'; parts: string[]; name: string }
  | { do: 'ungroup'; parts: string[] }
  /** Into the first of them. */
  | { do: 'merge'; parts: string[]; name: string }
  | { do: 'cut'; parts: string[]; by: CutBy }
  /** The other way round; normals that agreed with their faces go along. */
  | { do: 'turnFaces'; parts: string[] }
  /** Only those that disagree with their neighbours: bodies that close look outwards then. */
  | { do: 'agreeFaces'; parts: string[] }
  /** Normals anew: smooth across edges whose faces meet at less than the angle, in degrees. */
  | { do: 'normals'; parts: string[]; angle: number }
  /** The point that a part turns about; a picked one in metres, in the model's own axes. */
  | { do: 'pivot'; parts: string[]; at: PivotPlace | [number, number, number] }
  /** Placement into the points, so that the part's own transform says nothing any more. */
  | { do: 'apply'; parts: string[] }
  /** The part's own transform is forgotten; it goes back to where its parent stands. */
  | { do: 'reset'; parts: string[] }
  /** They stand elsewhere, with all that hangs on them. */
  | ({ do: 'place'; parts: string[] } & Placement)
  | ({ do: 'collision'; parts: string[] } & Collision);

/** What a change or a rule says of a shape, without the rest, always in the same order. */
export function collisionIn({ shape, hulls, error, keep }: Collision): Collision {
  return {
    shape,
    ...(hulls !== undefined && { hulls }),
    ...(error !== undefined && { error }),
    ...(keep !== undefined && { keep }),
  };
}

/** Keys of the parts that a change names. */
export function partsTouched(change: PartChange): string[] {
  if (change.do === 'rename') return change.names.map(({ part }) => part);
  if (change.do === 'move' && change.under !== null) return [...change.parts, change.under];
  return change.parts;
}
