import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { openOpacities } from './alphaUse.ts';
import { materialFinding } from './materialFinding.ts';

/** A cut-out with one side: leaves, nets and hair vanish when seen from behind. */
export const alphaOneSided: Check = (context) =>
  openOpacities(context).flatMap(({ material }): Finding[] => {
    if (material.alphaMode !== 'mask' || material.doubleSided) return [];
    return [
      materialFinding(material, 'opacity', {
        code: 'alpha.oneSided',
        severity: 'note',
        title: 'Cut-out with one side',
        message: `${material.key} is cut out by a mask and shows only its front; from behind it vanishes.`,
        evidence: ['alpha mode mask, one side'],
        mend: {
          kind: 'setAlpha',
          materials: [material.key],
          change: { doubleSided: true },
          origin: { from: 'evidence', detail: 'cut-outs are seen from both sides' },
        },
        safe: true,
        mendLabel: 'Two sides',
      }),
    ];
  });
