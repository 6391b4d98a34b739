import { SURE, TOLD } from '../../maps/judgeEncoding.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { slotFinding, slotInWords } from '../slots/slotFinding.ts';
import { changeInWords, tagMend } from './floatMend.ts';

/**
 * Linear numbers that are, or were, decoded as if encoded, and come out dark: by the tag now, or once too
 * often before the file was written. The second is mended by an exponent, since the light itself is lost to
 * no tag.
 */
export const colourLinearAsEncoded: Check = (context) =>
  context.floats().flatMap((colour): Finding[] => {
    const { slot, judged, tag, settled } = colour;
    if (settled || judged.confidence < TOLD) return [];
    const before = judged.state === 'darkened';
    if (!before && !(judged.state === 'linear' && tag.state === 'encoded')) return [];
    return [
      slotFinding(slot, {
        code: 'colour.linearAsEncoded',
        step: 'colour',
        severity: 'warning',
        title: before ? 'Decoded once too often' : 'Linear numbers tagged as encoded',
        message: before
          ? `${slotInWords(slot)}; its numbers were decoded twice, so it looks too dark. An exponent of 0.4545 undoes the second time.`
          : `${slotInWords(slot)}; its numbers are linear, but the tag ${slot.map.space} decodes them again, so it looks too dark.`,
        evidence: judged.evidence,
        mend: tagMend(colour),
        safe: judged.confidence >= SURE,
        mendLabel: changeInWords(colour),
      }),
    ];
  });
