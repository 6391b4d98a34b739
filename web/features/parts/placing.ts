import { type Part, withBelow } from '@kinkajou/core/asset/parts';
import { type Bounds, mergeBounds } from '@kinkajou/core/scene/measure';
import type { Placement } from '@kinkajou/core/scene/partChange';

type Place = [number, number, number];

/** What the handles in the view do. */
export type Handles = 'move' | 'turn' | 'size';

/** Parts that are being placed: what is seen is not an edit yet, or one whose geometry is on its way. */
export interface Placing extends Placement {
  parts: string[];
  handles: Handles;
  sent: boolean;
}

/** Nothing moved, about the pivot of the part, or about the middle where that is far off or there are several. */
export function placingOf(parts: readonly Part[], all: readonly Part[]): Placing {
  return {
    parts: parts.map(({ key }) => key),
    about: aboutOf(parts, all),
    move: [0, 0, 0],
    turn: [0, 0, 0],
    scale: 1,
    handles: 'move',
    sent: false,
  };
}

function aboutOf(parts: readonly Part[], all: readonly Part[]): Place {
  const [first] = parts;
  if (parts.length === 1 && first.pivot && isNear(first.pivot, first.bounds)) return first.pivot;
  const byKey = new Map(all.map((part) => [part.key, part]));
  const box = mergeBounds(
    withBelow(
      byKey,
      parts.map(({ key }) => key),
    ).map(({ bounds }) => bounds),
  );
  return box ? (box.min.map((value, k) => (value + box.max[k]) / 2) as Place) : (first?.pivot ?? [0, 0, 0]);
}

/** Whether a pivot lies within a part, or no farther from it than the part is large. */
function isNear(pivot: Place, bounds: Bounds | null): boolean {
  if (!bounds) return false;
  const { min, max } = bounds;
  const size = Math.max(...max.map((value, k) => value - min[k]));
  return pivot.every((value, k) => value >= min[k] - size && value <= max[k] + size);
}

/** Whether anything would move. */
export function placesAnything({ move, turn, scale }: Placement): boolean {
  return scale !== 1 || [...move, ...turn].some((value) => value !== 0);
}

/** A placement as it is kept: tenths of millimetres, hundredths of degrees, thousandths of the size. */
export function rounded({ about, move, turn, scale }: Placement): Placement {
  const to = (values: readonly number[], steps: number) =>
    values.map((value) => Math.round(value * steps) / steps + 0) as Place;
  return { about, move: to(move, 1e4), turn: to(turn, 1e2), scale: Math.max(1e-3, to([scale], 1e3)[0]) };
}
