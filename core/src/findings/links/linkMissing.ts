import { foreignType } from '../../images/format.ts';
import { findCounterpart } from '../../links/rank.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import type { Suggestion } from '../../sets/suggest.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { assignmentOf, SURE_IMAGE } from '../slots/settlement.ts';
import { type MissingImage, missingFinding, missingImages, usesInWords } from './missingImages.ts';

/** An image that the model names and that is not there: with one candidate, a counterpart, or none. */
export const linkMissing: Check = (context) => {
  return missingImages(context, 'missing').map((missing): Finding => {
    const { image, slots, candidates } = missing;
    const where = usesInWords(slots);
    const [best] = candidates;
    const rewired = context.settlement().rewired.get(image.key);
    if (rewired && !best?.safe) return rewiredFinding(missing, rewired, where);
    if (best) {
      const reason = best.reasons.join(', ');
      return missingFinding(
        missing,
        'Image not found',
        `${where}. ${best.path} ${best.safe ? 'fits' : 'may be meant'}: ${reason}.`,
      );
    }
    const foreign = foreignType(image.written);
    const remedy = foreign
      ? `Images of type .${foreign} are not read; save it as PNG under the same name and upload that.`
      : 'Nothing in the parcel fits; upload it or assign another image.';
    const base = missingFinding(missing, 'Image not found', `${where}. ${remedy}`);
    const counterpart = findCounterpart(image.written, context.named.values());
    if (!counterpart) return base;
    return {
      ...base,
      message: `${where}. ${counterpart.path}: ${counterpart.reason}.`,
      evidence: [...base.evidence, counterpart.reason],
      mend: {
        kind: 'assignSlots',
        assignments: slots.map((slot) => ({
          ...slot,
          image: counterpart.path,
          component: 'r',
          invert: true,
          space: 'data',
          normalY: 'Y+',
        })),
        origin: { from: 'evidence', detail: counterpart.reason },
      },
      mendLabel: 'Use inverted',
    };
  });
};

/** The material's set has the channel, but in another image or component than the model wrote. */
function rewiredFinding(missing: MissingImage, suggestions: readonly Suggestion[], where: string): Finding {
  const base = missingFinding(missing, 'Image not found', '');
  const images = [...new Set(suggestions.map(({ image }) => image))];
  const detail = suggestions[0].setReason;
  return {
    ...base,
    message: `${where}. ${images.join(' and ')} of the material's own set ${images.length === 1 ? 'holds' : 'hold'} that, read in another way.`,
    evidence: [
      ...base.evidence,
      detail,
      ...suggestions.map(
        ({ image, channel, component, reason }) =>
          `${image}: ${component} for ${channelInWords(channel)}; ${reason}`,
      ),
    ],
    mend: {
      kind: 'assignSlots',
      assignments: suggestions.map(assignmentOf),
      origin: { from: 'evidence', detail },
    },
    safe: suggestions.every(({ confidence }) => confidence >= SURE_IMAGE),
    mendLabel: suggestions.every(({ invert }) => invert) ? 'Use inverted' : 'Assign',
  };
}
