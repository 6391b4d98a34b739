import type { Check, Finding } from './finding.ts';
import { floatColours } from './floatEncoding.ts';
import { addressOf, slotFinding, slotInWords } from './slotFinding.ts';

const TOLD = 0.6;
const SURE = 0.9;

/** A float map tagged linear whose numbers are still encoded: shown, they are encoded once more and come out pale. */
export const colourEncodedTwice: Check = (context) =>
  floatColours(context).flatMap(({ slot, linear, judged }): Finding[] => {
    if (!linear || judged.state !== 'encoded' || judged.confidence < TOLD) return [];
    return [
      slotFinding(slot, {
        code: 'colour.encodedTwice',
        step: 'colour',
        severity: 'warning',
        title: 'Encoded numbers tagged linear',
        message: `${slotInWords(slot)}; its tag says linear, but its numbers are still sRGB-encoded, so it looks too pale.`,
        evidence: judged.evidence,
        mend: {
          kind: 'adjustSlots',
          slots: [addressOf(slot)],
          change: { space: 'srgb_rec709_scene' },
          origin: { from: 'evidence', detail: judged.evidence[0] },
        },
        safe: judged.confidence >= SURE,
        mendLabel: 'Tag as sRGB',
      }),
    ];
  });
