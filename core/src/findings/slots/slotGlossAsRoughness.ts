import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { addressOf, slotFinding, slotInWords } from './slotFinding.ts';

/** Glossiness read as roughness, or the other way round: rough turns polished. One is 1 minus the other. */
export const slotGlossAsRoughness: Check = ({ slots, verdictOf }) =>
  slots.flatMap((slot): Finding[] => {
    const verdict = verdictOf(slot);
    if (verdict?.kind !== 'glossAsRoughness') return [];
    const is = slot.channel === 'roughness' ? 'glossiness' : 'roughness';
    return [
      slotFinding(slot, {
        code: 'slot.glossAsRoughness',
        step: 'slots',
        severity: 'error',
        title: `${is === 'glossiness' ? 'Glossiness' : 'Roughness'} read as its opposite`,
        message: `${slotInWords(slot)}, but its name says ${is}; inverted it fits.`,
        evidence: [verdict.why, 'roughness = 1 - glossiness'],
        mend: {
          kind: 'adjustSlots',
          slots: [addressOf(slot)],
          change: { invert: true },
          origin: { from: 'evidence', detail: verdict.why },
        },
        safe: (slot.named?.confidence ?? 0) >= 0.9,
        mendLabel: 'Invert',
      }),
    ];
  });
