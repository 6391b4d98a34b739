import { SPACES } from '../../colour/spaces.ts';
import { TOLD } from '../../maps/judgeEncoding.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { slotFinding, slotInWords } from '../slots/slotFinding.ts';
import { changeInWords, tagMend } from './floatMend.ts';

/**
 * A float map whose header, name or numbers name other primaries than its tag: reds and greens come out
 * duller or stronger than they are. Where the model states nothing of colour the map's own word is taken.
 */
export const colourPrimaries: Check = (context) =>
  context.floats().flatMap((colour): Finding[] => {
    const { slot, judged, tag, linear, unstated, settled } = colour;
    const tagged = tag.linear ?? 'lin_rec709_scene';
    if (settled || judged.linear === null || judged.linear === tagged || judged.confidence < TOLD) return [];
    // What is wrong with the curve as well is told of there, and mended together.
    if (judged.state !== tag.state) return [];
    return [
      slotFinding(slot, {
        code: 'colour.primaries',
        step: 'colour',
        severity: 'warning',
        title: 'Other primaries than its tag',
        message: `${slotInWords(slot)}; it is read in ${SPACES[tagged].title}, but its ${judged.by === 'codes' ? 'numbers speak' : `${judged.by} speaks`} of ${SPACES[linear].title}.`,
        evidence: judged.evidence,
        mend: tagMend(colour),
        safe: unstated,
        mendLabel: changeInWords(colour),
      }),
    ];
  });
