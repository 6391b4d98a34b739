import { percent } from '../../maps/judgePixels.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { EDGE, openOpacities, sharesOf } from './alphaUse.ts';
import { materialFinding } from './materialFinding.ts';

/** Blending where the opacity has two values but for its edges: leaves, nets and grids sort wrongly then. */
export const alphaMaskWouldDo: Check = (context) =>
  openOpacities(context).flatMap((slot): Finding[] => {
    const shares = sharesOf(slot);
    if (
      !shares ||
      slot.material.alphaMode !== 'blend' ||
      shares.between > EDGE ||
      shares.clear === 0 ||
      shares.full === 0
    )
      return [];
    const { material } = slot;
    const why = `${percent(1 - shares.between)} of the pixels are clear or opaque`;
    return [
      materialFinding(material, 'opacity', {
        code: 'alpha.maskWouldDo',
        severity: 'warning',
        title: 'Blends where a mask would do',
        message: `${material.key} blends, which sorts wrongly; ${why}, so a mask with the cut-off 0.5 looks the same.`,
        evidence: [why],
        mend: {
          kind: 'setAlpha',
          materials: [material.key],
          change: { alphaMode: 'mask', alphaCutoff: 0.5, doubleSided: true },
          origin: { from: 'evidence', detail: why },
        },
        safe: true,
        mendLabel: 'Use a mask',
      }),
    ];
  });
