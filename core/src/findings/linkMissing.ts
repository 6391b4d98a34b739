import { usesOfImages } from '../asset/asset.ts';
import { findCounterpart, rankCandidates } from '../links/rank.ts';
import { writtenName } from '../links/writtenPath.ts';
import type { Check, Finding } from './finding.ts';

/** An image that the model names and that is not there: with a safe candidate, several, a counterpart, or none. */
export const linkMissing: Check = ({ source, state, images, index }) => {
  const uses = usesOfImages(state);
  const paths = images.filter((image) => image.info).map((image) => image.path);
  return state.images
    .filter((image) => image.status === 'missing' && (uses.get(image.key)?.length ?? 0) > 0)
    .map((image): Finding => {
      const slots = uses.get(image.key) ?? [];
      const candidates = rankCandidates(image.written, source.model, index);
      const best = candidates[0];
      const where = slots.map((slot) => `${slot.material}, ${slot.channel}`).join('; ');
      const base = {
        code: 'link.missing',
        step: 'links' as const,
        severity: 'error' as const,
        key: `link.missing:${image.key}`,
        title: 'Image not found',
        subject: writtenName(image.written),
        target: { image: image.key, material: slots[0]?.material, channel: slots[0]?.channel },
      };
      const evidence = [`written as ${image.written}`, ...candidates.map((c) => `${c.path}: ${c.reasons.join(', ')} (${c.score.toFixed(2)})`)];
      if (best) {
        return {
          ...base,
          message: best.safe
            ? `${where}. ${best.path} fits: ${best.reasons.join(', ')}.`
            : `${where}. ${candidates.length === 1 ? `${best.path} may be meant: ${best.reasons.join(', ')}` : `${candidates.length} files may be meant; choose one`}.`,
          evidence,
          mend: {
            kind: 'linkImages',
            links: [{ image: image.key, path: best.path, reason: best.reasons.join(', ') }],
            origin: { from: 'evidence', detail: best.reasons.join(', ') },
          },
          safe: best.safe,
          mendLabel: best.safe ? 'Link' : 'Link best',
        };
      }
      const counterpart = findCounterpart(image.written, paths);
      const channel = slots[0]?.channel;
      if (counterpart && channel) {
        return {
          ...base,
          message: `${where}. ${counterpart.path}: ${counterpart.reason}.`,
          evidence: [...evidence, counterpart.reason],
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
          safe: false,
          mendLabel: 'Use inverted',
        };
      }
      return { ...base, message: `${where}. Nothing in the parcel fits; upload it or assign another image.`, evidence, mend: null, safe: false, mendLabel: '' };
    });
};
