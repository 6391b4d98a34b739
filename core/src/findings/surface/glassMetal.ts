import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { glassWord, materialFinding, scalarOf, shown } from './materialFinding.ts';

/** Glass by its name that is metal: it mirrors, and nothing is seen through it. */
export const glassMetal: Check = ({ state }) =>
  state.materials.flatMap((material): Finding[] => {
    const word = glassWord(material);
    const metalness = scalarOf(material, 'metalness', 0);
    if (!word || metalness <= 0.5 || material.channels.metalness?.map) return [];
    return [
      materialFinding(material, 'metalness', {
        code: 'glass.metal',
        severity: 'warning',
        title: 'Glass that is metal',
        message: `${material.key} is glass by its name ("${word}"), but its metalness is ${shown(metalness)}.`,
        evidence: [`"${word}" in the name`, `metalness ${shown(metalness)}`],
        mend: {
          kind: 'setValues',
          slots: [{ material: material.key, channel: 'metalness' }],
          value: 0,
          origin: { from: 'evidence', detail: `"${word}" in the name` },
        },
        safe: true,
        mendLabel: 'Make no metal',
      }),
    ];
  });
