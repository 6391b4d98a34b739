import { heightOf } from '../../materials/height.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { lengthInWords, materialFinding, shareInWords } from './materialFinding.ts';

/** Displacement beyond this share of the object's size tears silhouettes. */
const MOST = 0.05;
/** What is proposed instead. */
const SMALL = 0.01;

/**
 * A height amount that is large against the object: the silhouette tears and parts come through each other.
 */
export const surfaceHeightTooStrong: Check = ({ source, slots, verdictOf }) => {
  if (!source.bounds) return [];
  const { min, max } = source.bounds;
  const size = Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]) / source.metresPerUnit;
  const inMetres = (units: number) => lengthInWords(units * source.metresPerUnit);
  return slots.flatMap((slot): Finding[] => {
    const { material, channel, content, map, file } = slot;
    // A map that is no height at all is another finding.
    if (channel !== 'height' || !file || !(size > 0) || verdictOf(slot)) return [];
    const { amount } = heightOf(content.value, map);
    const share = Math.abs(amount) / size;
    if (share <= MOST) return [];
    const proposed = Number((Math.sign(amount) * size * SMALL).toPrecision(2));
    return [
      materialFinding(material, 'height', {
        code: 'surface.heightTooStrong',
        severity: 'warning',
        title: 'Displaced too far',
        message: `${material.key} is displaced by ${inMetres(amount)}, ${shareInWords(share)} of the object's size; the silhouette tears.`,
        evidence: [
          `the object is ${inMetres(size)} across`,
          `${shareInWords(SMALL)} of it is ${inMetres(proposed)}`,
        ],
        mend: {
          kind: 'setValues',
          slots: [{ material: material.key, channel }],
          // The value multiplies what the map's own gain makes of it.
          value: map.gain === 0 ? 0 : proposed / map.gain,
          origin: { from: 'evidence', detail: `${shareInWords(share)} of the object's size` },
        },
        safe: false,
        mendLabel: `Set to ${inMetres(proposed)}`,
      }),
    ];
  });
};
