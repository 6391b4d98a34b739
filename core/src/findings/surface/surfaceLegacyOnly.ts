import { shadingModelOf } from '../../materials/shadingModel.ts';
import type { Material } from '../../scene/material.ts';
import type { Check } from '../findingContext.ts';
import { scalarOf, shown } from './materialFinding.ts';

/** A highlight weaker than this is no statement about the surface. */
const FAINT = 0.05;
const SHOWN = 12;

/**
 * Materials that state their gloss in legacy words alone: a modern reader has to guess roughness and
 * metalness.
 */
export const surfaceLegacyOnly: Check = ({ source, state }) => {
  const legacy = state.materials.filter(isLegacyOnly);
  if (legacy.length === 0) return [];
  const [first] = legacy;
  return [
    {
      code: 'surface.legacyOnly',
      step: 'surface',
      severity: 'note',
      key: 'surface.legacyOnly',
      title: 'Legacy shading only',
      subject: source.name,
      message:
        legacy.length === 1
          ? `${first.key} has a specular colour and an exponent, and neither roughness nor metalness.`
          : `${legacy.length} materials, such as ${first.key}, have a specular colour and an exponent, and neither roughness nor metalness.`,
      evidence: [
        ...legacy.slice(0, SHOWN).map(({ key, exponent }) => `${key}: exponent ${shown(exponent ?? 0)}`),
        'roughness comes from the exponent: roughness^4 = 2 / (Ns + 2)',
        'metalness is solved from diffuse and specular brightness',
      ],
      mend: null,
      make: { materials: legacy.map(({ key }) => key), recipe: 'metal-rough', params: {} },
      safe: false,
      mendLabel: 'To metal/rough',
      target: { material: first.key, channel: 'specularColor' },
    },
  ];
};

function isLegacyOnly(material: Material): boolean {
  const { channels, exponent } = material;
  const specular = Math.max(scalarOf(material, 'specularColor', 0), channels.specularColor?.map ? 1 : 0);
  if (shadingModelOf(material) !== 'legacy' || channels.glossiness) return false;
  return specular >= FAINT && exponent !== null && exponent > 0;
}
