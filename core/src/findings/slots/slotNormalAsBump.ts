import { channelInWords } from '../../scene/channelTitles.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { addressOf, assignmentTo, slotFinding, slotInWords } from './slotFinding.ts';

/** A normal map in the bump or height slot: its red alone is read as a relief. */
export const slotNormalAsBump: Check = ({ slots, verdictOf }) =>
  slots.flatMap((slot): Finding[] => {
    const verdict = verdictOf(slot);
    if (verdict?.kind !== 'normalAsBump') return [];
    const normalY = slot.facts?.direction?.direction ?? slot.named?.readings[0]?.normalY ?? 'Y+';
    return [
      slotFinding(slot, {
        code: 'slot.normalAsBump',
        step: 'slots',
        severity: 'error',
        title: `Normal map in the ${channelInWords(slot.channel)} slot`,
        message: `${slotInWords(slot)}, but it holds vectors, not heights.`,
        evidence: [verdict.why],
        mend: {
          kind: 'assignSlots',
          assignments: [assignmentTo(slot, 'normal', { component: 'rgb', space: 'data', normalY })],
          clears: [addressOf(slot)],
          origin: { from: 'evidence', detail: verdict.why },
        },
        safe: slot.facts !== null,
        mendLabel: 'Move to normal',
      }),
    ];
  });
