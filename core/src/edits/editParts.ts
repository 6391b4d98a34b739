import type { Collision, CollisionShape, PartChange, Placement } from '../scene/partChange.ts';
import type { EditDefinition } from './editKind.ts';

/**
 * Changes the model's own parts. The change is kept in order, since what one makes another may go on with.
 */
export const editParts: EditDefinition<'editParts'> = {
  apply(draft, { change }) {
    draft.parts = [...(draft.parts ?? []), change];
  },
  describe: ({ change }) => describeChange(change),
};

const PIVOT_WORDS = {
  centre: 'the middle',
  bottom: 'the middle of the bottom',
  origin: 'the origin',
  balance: 'the balance point',
};

/** Shapes for collision, as the page and the log call them. */
export const SHAPE_WORDS: Record<CollisionShape, string> = {
  none: 'none',
  box: 'box',
  orientedBox: 'smallest box',
  hull: 'convex hull',
  hulls: 'several hulls',
  mesh: 'its own faces',
};

/** A shape for collision in words: what was asked of it is told with it. */
function collisionText({ shape, hulls, error, keep }: Collision): string {
  const details = [
    shape === 'hulls' && hulls !== undefined && `${hulls} at most`,
    shape === 'hulls' && error !== undefined && `error ${percent(error)}`,
    shape === 'mesh' && keep !== undefined && keep < 1 && `${percent(keep)} of its triangles`,
  ].filter(Boolean);
  return [SHAPE_WORDS[shape], ...details].join(', ');
}

function percent(share: number): string {
  return `${Number((share * 100).toPrecision(3))} %`;
}

/** A placement in words; what it leaves as it was is not told. */
export function placementText({ move, turn, scale }: Placement): string {
  const rounded = (values: readonly number[]) =>
    values.map((value) => Number(value.toPrecision(6))).join(', ');
  const said = [
    move.some((value) => value !== 0) && `moved by ${rounded(move)} m`,
    turn.some((value) => value !== 0) && `turned by ${rounded(turn)}°`,
    scale !== 1 && `${rounded([scale])} times its size`,
  ].filter(Boolean);
  return said.length > 0 ? said.join(', ') : 'as it stood';
}

function describeChange(change: PartChange): string {
  switch (change.do) {
    case 'drop':
      return `Dropped ${named(change.parts)}`;
    case 'restore':
      return `Brought ${named(change.parts)} back`;
    case 'rename':
      return change.names.length === 1
        ? `Renamed ${change.names[0].part} to ${change.names[0].name}`
        : `Renamed ${change.names.length} parts`;
    case 'move':
      return `Moved ${named(change.parts)} ${change.under === null ? 'to the top' : `below ${change.under}`}`;
    case 'group':
      return `Grouped ${named(change.parts)} as ${change.name}`;
    case 'ungroup':
      return `Ungrouped ${named(change.parts)}`;
    case 'merge':
      return `Merged ${named(change.parts)} into ${change.name}`;
    case 'cut':
      return `Cut ${named(change.parts)} ${change.by === 'materials' ? 'by material' : 'into solids'}`;
    case 'turnFaces':
      return `Turned the faces of ${named(change.parts)}`;
    case 'agreeFaces':
      return `Made the faces of ${named(change.parts)} agree`;
    case 'normals':
      return `Computed normals of ${named(change.parts)}, smooth below ${change.angle}°`;
    case 'pivot':
      return `Put the pivot of ${named(change.parts)} at ${typeof change.at === 'string' ? PIVOT_WORDS[change.at] : change.at.join(' ')}`;
    case 'apply':
      return `Applied the transform of ${named(change.parts)}`;
    case 'reset':
      return `Reset the transform of ${named(change.parts)}`;
    case 'place':
      return `Placed ${named(change.parts)}: ${placementText(change)}`;
    case 'collision':
      return change.shape === 'none'
        ? `No collision shape for ${named(change.parts)}`
        : `Collision shape of ${named(change.parts)}: ${collisionText(change)}`;
  }
}

function named(parts: readonly string[]): string {
  return parts.length === 1 ? parts[0] : `${parts.length} parts`;
}
