import type { Part } from '../../asset/parts.ts';
import { mergeBounds } from '../../scene/measure.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { lengthInWords } from '../surface/materialFinding.ts';
import { NO_MEND, partFinding } from './partFinding.ts';
import { boundsOfParts, diagonalOf, distanceTo } from './placing.ts';

/** Sizes of an asset that it may lie off, and the least distance that anybody minds. */
const TIMES = 10;
const LEAST = 1;
/** Parts that are asked one by one whether they have strayed. */
const MOST_PARTS = 2000;

/** An asset far from the origin for its size, or a part far from all others. */
export const shapeFarOff: Check = ({ source, parts }): Finding[] => {
  const all = parts();
  const bounds = boundsOfParts(all);
  if (!bounds || !source.shapes) return [];
  const distance = distanceTo(bounds, [0, 0, 0]);
  const text = { code: 'shape.farOff', severity: 'warning', title: 'Far off', ...NO_MEND } as const;
  if (distance > LEAST && distance > TIMES * diagonalOf(bounds)) {
    const message = `${source.name}: it lies ${lengthInWords(distance)} from the origin, and is ${lengthInWords(diagonalOf(bounds))} large; views, pivots and precision suffer.`;
    return [
      {
        ...text,
        step: 'parts',
        key: 'shape.farOff',
        subject: source.name,
        message,
        evidence: [],
        target: {},
      },
    ];
  }
  return strayed(all).map(({ part, distance: off }) =>
    partFinding(part, {
      ...text,
      message: `${part.name}: it lies ${lengthInWords(off)} from everything else.`,
      evidence: [],
    }),
  );
};

function strayed(parts: readonly Part[]): { part: Part; distance: number }[] {
  const shown = parts.filter(({ bounds, dropped }) => bounds && !dropped);
  if (shown.length < 2 || shown.length > MOST_PARTS) return [];
  return shown.flatMap((part) => {
    const others = mergeBounds(shown.filter((other) => other !== part).map(({ bounds }) => bounds));
    if (!part.bounds || !others) return [];
    const middle = part.bounds.min.map((value, k) => (value + (part.bounds?.max[k] ?? value)) / 2);
    const distance = distanceTo(others, middle) - diagonalOf(part.bounds) / 2;
    const fromOrigin = distanceTo(part.bounds, [0, 0, 0]);
    const far = distance > LEAST && distance > TIMES * Math.max(diagonalOf(others), diagonalOf(part.bounds));
    // Of two that lie apart, the one at the origin is where it should be.
    return far && fromOrigin > LEAST ? [{ part, distance }] : [];
  });
}
