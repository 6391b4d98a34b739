import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { materialFinding, scalarOf } from './materialFinding.ts';

/** An emission map whose factor is 0: the map is there and nothing glows. */
export const surfaceEmissionDark: Check = ({ slots }) =>
  slots.flatMap(({ material, channel, file }): Finding[] => {
    if (channel !== 'emission' || !file || scalarOf(material, 'emission', 1) !== 0) return [];
    return [
      materialFinding(material, channel, {
        code: 'surface.emissionDark',
        severity: 'warning',
        title: 'Emission map that does not glow',
        message: `${material.key} multiplies ${file.path} by 0.`,
        evidence: ['the factor of emission is 0, 0, 0'],
        mend: {
          kind: 'setValues',
          slots: [{ material: material.key, channel }],
          value: [1, 1, 1],
          origin: { from: 'evidence', detail: 'an emission map with the factor 0 does nothing' },
        },
        safe: true,
        mendLabel: 'Let it glow',
      }),
    ];
  });
