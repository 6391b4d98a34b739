import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { addressOf, assignmentTo, slotFinding, slotInWords } from './slotFinding.ts';

/** A grey relief in the normal slot: read as vectors it tilts every normal the same way. */
export const slotBumpAsNormal: Check = ({ slots, verdictOf }) =>
  slots.flatMap((slot): Finding[] => {
    const verdict = verdictOf(slot);
    if (verdict?.kind !== 'bumpAsNormal') return [];
    return [
      slotFinding(slot, {
        code: 'slot.bumpAsNormal',
        step: 'slots',
        severity: 'error',
        title: 'Bump map in the normal slot',
        message: `${slotInWords(slot)}, but it holds heights, not vectors.`,
        evidence: [verdict.why],
        mend: {
          kind: 'assignSlots',
          assignments: [assignmentTo(slot, 'bump', { component: 'r', space: 'data' })],
          clears: [addressOf(slot)],
          origin: { from: 'evidence', detail: verdict.why },
        },
        safe: verdict.sure,
        mendLabel: 'Move to bump',
      }),
    ];
  });
