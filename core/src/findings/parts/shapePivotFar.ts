import type { Part } from '../../asset/parts.ts';
import { type Bounds, mergeBounds } from '../../scene/measure.ts';
import type { Check } from '../findingContext.ts';
import { lengthInWords } from '../surface/materialFinding.ts';
import { capped, partFinding } from './partFinding.ts';
import { boundsOfParts, diagonalOf, distanceTo } from './placing.ts';

/** Sizes of the part that its pivot may lie off it. */
const TIMES = 2;

/**
 * A part's pivot far outside of it: it swings instead of spinning. Pivots within the asset are no fault,
 * since parts of a whole turn about its origin; nor are those of joints and skins, or of a model that lies
 * far off as a whole.
 */
export const shapePivotFar: Check = ({ source, parts }) => {
  const all = parts();
  const whole = boundsOfParts(all);
  if (!whole || source.format === 'obj' || !source.shapes) return [];
  const size = diagonalOf(whole);
  const offWhole = distanceTo(whole, [0, 0, 0]) > 10 * size;
  const below = boundsBelow(all);
  return capped(
    all.flatMap((part) => {
      const bounds = below.get(part.key);
      if (part.dropped || part.polygons === 0 || !part.pivot || !bounds) return [];
      const distance = distanceTo(bounds, part.pivot);
      const atOrigin = part.pivot.every((value) => Math.abs(value) < 1e-9);
      if (
        distance <= TIMES * diagonalOf(bounds) ||
        distanceTo(whole, part.pivot) <= size ||
        (offWhole && atOrigin)
      )
        return [];
      return [
        partFinding(part, {
          code: 'shape.pivotFar',
          severity: 'note',
          title: 'Pivot far off',
          message: `${part.name}: it turns about a point ${lengthInWords(distance)} away, and is ${lengthInWords(diagonalOf(bounds))} large; it swings instead of spinning.`,
          evidence: [`pivot at ${part.pivot.map((value) => lengthInWords(value)).join(', ')}`],
          mend: {
            kind: 'editParts',
            change: { do: 'pivot', parts: [part.key], at: 'centre' },
            origin: { from: 'evidence', detail: 'its pivot lies far outside of it' },
          },
          safe: false,
          mendLabel: 'Pivot to its middle',
        }),
      ];
    }),
  );
};

/** Bounds of each part with all that hangs on it. */
function boundsBelow(parts: readonly Part[]): Map<string, Bounds> {
  const byKey = new Map(parts.map((part) => [part.key, part]));
  const boundsByPart = new Map<string, Bounds>();
  for (const part of parts) {
    if (!part.bounds || part.dropped) continue;
    const passed = new Set<string>();
    for (
      let above: Part | undefined = part;
      above && !passed.has(above.key);
      above = byKey.get(above.parent ?? '')
    ) {
      passed.add(above.key);
      const grown = mergeBounds([boundsByPart.get(above.key) ?? null, part.bounds]);
      if (grown) boundsByPart.set(above.key, grown);
    }
  }
  return boundsByPart;
}
