import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { glassWord, materialFinding, scalarOf } from './materialFinding.ts';

/** Glass by its name that lets nothing through: panes come out black or white. */
export const glassOpaque: Check = ({ state }) =>
  state.materials.flatMap((material): Finding[] => {
    const word = glassWord(material);
    const clear =
      material.alphaMode !== 'opaque' ||
      scalarOf(material, 'transmission', 0) > 0 ||
      material.channels.transmission?.map;
    // A metal of that name is told about for that.
    if (
      !word ||
      clear ||
      scalarOf(material, 'metalness', 0) > 0.5 ||
      material.channels.metalness?.map ||
      material.channels.opacity?.map
    )
      return [];
    return [
      materialFinding(material, 'transmission', {
        code: 'glass.opaque',
        severity: 'warning',
        title: 'Glass that is opaque',
        message: `${material.key} is glass by its name ("${word}"), but it is opaque and transmits nothing.`,
        evidence: [`"${word}" in the name`, `alpha mode ${material.alphaMode}, transmission 0`],
        mend: {
          kind: 'setValues',
          slots: [{ material: material.key, channel: 'transmission' }],
          value: 1,
          origin: { from: 'evidence', detail: `"${word}" in the name` },
        },
        safe: false,
        mendLabel: 'Let light through',
      }),
    ];
  });
