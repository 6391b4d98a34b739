import { isNormalLike, lacksBlue, percent } from '../../maps/judgePixels.ts';
import type { PixelFacts } from '../../maps/pixelFacts.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { addressOf, slotFinding } from './slotFinding.ts';

/** Fewer unit vectors than this, and the map was scaled, blended or compressed carelessly. */
const UNIT_SHARE = 0.75;

/**
 * A normal map whose vectors are not of length 1, or whose blue is empty and must be made from red and green.
 */
export const normalNotUnit: Check = ({ slots }) =>
  slots.flatMap((slot): Finding[] => {
    const { channel, map, file, facts } = slot;
    if (channel !== 'normal' || !file || !facts || map.repair) return [];
    const repair = repairFor(facts);
    if (!repair) return [];
    const why =
      repair === 'blue'
        ? `${facts.components === 2 ? 'it has red and green only' : 'its blue is the same everywhere'}; red and green fit into the unit circle on ${percent(facts.disc)} of the pixels`
        : `only ${percent(facts.unit)} of the vectors are of length 1, the mean length is ${facts.length.toFixed(2)}`;
    return [
      slotFinding(slot, {
        code: 'normal.notUnit',
        step: 'slots',
        severity: 'warning',
        title: repair === 'blue' ? 'Normal map without blue' : 'Normals not of unit length',
        message: `${file.path}: ${why}.`,
        evidence: [why, repair === 'blue' ? 'z = sqrt(1 - x^2 - y^2)' : 'each vector divided by its length'],
        mend: {
          kind: 'adjustSlots',
          slots: [addressOf(slot)],
          change: { repair },
          origin: { from: 'evidence', detail: why },
        },
        safe: true,
        mendLabel: repair === 'blue' ? 'Rebuild blue' : 'Make unit length',
      }),
    ];
  });

function repairFor(facts: PixelFacts) {
  if (lacksBlue(facts)) return 'blue';
  return isNormalLike(facts) && facts.unit < UNIT_SHARE ? 'unit' : null;
}
