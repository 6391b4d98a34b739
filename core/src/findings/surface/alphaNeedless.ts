import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { alphaIgnored } from './alphaIgnored.ts';
import { openOpacities, sharesOf } from './alphaUse.ts';
import { materialFinding } from './materialFinding.ts';

/** Blending with an opacity that is 1 all over: it costs sorting and shows nothing. */
export const alphaNeedless: Check = (context) => {
  // Where another alpha is meant, there is something to see.
  const ignored = new Set(alphaIgnored(context).map(({ subject }) => subject));
  return openOpacities(context).flatMap((slot): Finding[] => {
    const shares = sharesOf(slot);
    const { material, file } = slot;
    if (!shares || shares.full < 1 || ignored.has(material.key)) return [];
    return [
      materialFinding(material, 'opacity', {
        code: 'alpha.needless',
        severity: 'warning',
        title: 'Transparency that shows nothing',
        message: `${material.key} is set to ${material.alphaMode}, but the opacity of ${file?.path} is 1 all over.`,
        evidence: ['every pixel that was looked at is opaque'],
        mend: {
          kind: 'setAlpha',
          materials: [material.key],
          change: { alphaMode: 'opaque' },
          origin: { from: 'evidence', detail: 'its opacity is 1 all over' },
        },
        safe: true,
        mendLabel: 'Make opaque',
      }),
    ];
  });
};
