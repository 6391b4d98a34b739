import { shadingModelOf } from '../../materials/shadingModel.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { materialFinding } from './materialFinding.ts';

/**
 * A painted specular colour without gloss, roughness or exponent: nothing says how sharp it reflects, and it
 * goes out dull.
 */
export const surfaceGlossLacking: Check = ({ state, settlement }) => {
  const lacking = state.materials.filter((material) => {
    const { channels, exponent } = material;
    const painted = channels.specularColor?.map && shadingModelOf(material) !== 'metalRough';
    return painted && !channels.glossiness && !channels.roughness && !exponent;
  });
  if (lacking.length === 0) return [];
  const coming = new Set(
    settlement().fills.flatMap(({ material, channel }) =>
      channel === 'glossiness' || channel === 'roughness' ? [material] : [],
    ),
  );
  return lacking.flatMap((material): Finding[] => {
    if (coming.has(material.key)) return [];
    return [
      materialFinding(material, 'glossiness', {
        code: 'surface.glossLacking',
        severity: 'warning',
        title: 'Specular colour without gloss',
        message: `${material.key} has an image of its specular colour, and neither glossiness, roughness nor an exponent; it counts as fully rough.`,
        evidence: ['specularColor has an image', 'no glossiness, no roughness, no exponent'],
        mend: null,
        safe: false,
        mendLabel: '',
      }),
    ];
  });
};
