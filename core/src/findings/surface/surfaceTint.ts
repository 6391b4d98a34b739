import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { materialFinding, shown } from './materialFinding.ts';

/** Factors this near to white are white. */
const WHITE = 0.02;
/** Of a grey map the factor is its colour, and no tint. */
const GREY_MAP = 0.98;

/**
 * A colour factor that is not white beside a coloured map: it multiplies the map, and the part looks tinted.
 */
export const surfaceTint: Check = ({ slots }) =>
  slots.flatMap(({ material, channel, content, facts, file }): Finding[] => {
    const { value } = content;
    if (
      channel !== 'baseColor' ||
      !file ||
      typeof value === 'number' ||
      value.every((component) => Math.abs(component - 1) <= WHITE)
    )
      return [];
    if (!facts || facts.grey >= GREY_MAP) return [];
    const factor = value.map(shown).join(', ');
    return [
      materialFinding(material, channel, {
        code: 'surface.tint',
        severity: 'warning',
        title: 'Map is tinted',
        message: `${material.key} multiplies ${file.path} by ${factor}.`,
        evidence: [`the factor is ${factor}`, 'a factor of 1, 1, 1 shows the map as it is'],
        mend: {
          kind: 'setValues',
          slots: [{ material: material.key, channel }],
          value: [1, 1, 1],
          origin: { from: 'evidence', detail: `the factor ${factor} tints the map` },
        },
        safe: false,
        mendLabel: 'Neutralise',
      }),
    ];
  });
