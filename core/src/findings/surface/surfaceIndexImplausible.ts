import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { materialFinding, scalarOf, shown } from './materialFinding.ts';

/** Dielectrics lie at 1.3 to 1.8 for the most part; diamond has 2.42. */
const LEAST = 1;
const MOST = 2.5;
const USUAL = 1.5;

/** An index of refraction like no dielectric's: the surface shines as if lacquered, or not at all. */
export const surfaceIndexImplausible: Check = ({ state }) =>
  state.materials.flatMap((material): Finding[] => {
    const index = scalarOf(material, 'ior', USUAL);
    const metal = scalarOf(material, 'metalness', 0) > 0.5 || material.channels.metalness?.map;
    if (metal || (index >= LEAST && index <= MOST)) return [];
    // F0 = ((n - 1) / (n + 1))^2, normal incidence in air.
    const reflectance = ((index - 1) / (index + 1)) ** 2;
    return [
      materialFinding(material, 'ior', {
        code: 'surface.indexImplausible',
        severity: 'warning',
        title: 'Index of refraction like no dielectric',
        message: `${material.key} has the index ${shown(index)}, so it reflects ${shown(reflectance * 100)}% at normal incidence.`,
        evidence: [
          `most dielectrics have 1.3 to 1.8, diamond has 2.42`,
          'reflectance is ((n - 1) / (n + 1))^2; 1.5 gives 4%',
        ],
        mend: {
          kind: 'setValues',
          slots: [{ material: material.key, channel: 'ior' }],
          value: USUAL,
          origin: { from: 'evidence', detail: `no dielectric has the index ${shown(index)}` },
        },
        safe: true,
        mendLabel: 'Set 1.5',
      }),
    ];
  });
