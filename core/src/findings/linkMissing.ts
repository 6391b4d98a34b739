import { findCounterpart } from '../links/rank.ts';
import type { Check, Finding } from './finding.ts';
import { missingFinding, missingImages, usesInWords } from './missingImages.ts';

/** An image that the model names and that is not there: with one candidate, a counterpart, or none. */
export const linkMissing: Check = (context) => {
  return missingImages(context, 'missing').map((missing): Finding => {
    const { image, slots, candidates } = missing;
    const where = usesInWords(slots);
    const [best] = candidates;
    if (best) {
      const reason = best.reasons.join(', ');
      return missingFinding(missing, 'Image not found', `${where}. ${best.path} ${best.safe ? 'fits' : 'may be meant'}: ${reason}.`);
    }
    const base = missingFinding(missing, 'Image not found', `${where}. Nothing in the parcel fits; upload it or assign another image.`);
    const counterpart = findCounterpart(image.written, context.named.values());
    if (!counterpart) return base;
    return {
      ...base,
      message: `${where}. ${counterpart.path}: ${counterpart.reason}.`,
      evidence: [...base.evidence, counterpart.reason],
      mend: {
        kind: 'assignSlots',
        assignments: slots.map((slot) => ({ ...slot, image: counterpart.path, component: 'r', invert: true, space: 'data', normalY: 'Y+' })),
        origin: { from: 'evidence', detail: counterpart.reason },
      },
      mendLabel: 'Use inverted',
    };
  });
};
