import { STATE_WORDS } from '../../maps/encodingState.ts';
import { SURE, TOLD } from '../../maps/judgeEncoding.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { slotFinding, slotInWords } from '../slots/slotFinding.ts';
import { changeInWords, tagMend } from './floatMend.ts';

/**
 * A float map whose numbers were encoded once more than its tag undoes: shown, they are encoded again and
 * come out pale.
 */
export const colourEncodedTwice: Check = (context) =>
  context.floats().flatMap((colour): Finding[] => {
    const { slot, judged, tag, settled } = colour;
    if (settled || judged.confidence < TOLD) return [];
    const tooOften =
      judged.state === 'encodedTwice' || (judged.state === 'encoded' && tag.state === 'linear');
    if (!tooOften) return [];
    const twice = judged.state === 'encodedTwice';
    return [
      slotFinding(slot, {
        code: 'colour.encodedTwice',
        severity: 'warning',
        step: 'colour',
        title: twice ? 'Encoded twice' : 'Encoded numbers tagged linear',
        message: `${slotInWords(slot)}; ${twice ? 'its numbers were encoded twice' : `its tag says linear, but its numbers are ${STATE_WORDS[judged.state]}`}, so it looks too pale.`,
        evidence: judged.evidence,
        mend: tagMend(colour),
        safe: judged.confidence >= SURE,
        mendLabel: changeInWords(colour),
      }),
    ];
  });
