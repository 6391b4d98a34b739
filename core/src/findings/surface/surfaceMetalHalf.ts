import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { materialFinding, scalarOf, shown } from './materialFinding.ts';

const METAL = 0.9;
const DIELECTRIC = 0.1;

/** A metalness between metal and not, all over: there is no such surface; rust and dirt want a map. */
export const surfaceMetalHalf: Check = ({ state }) =>
  state.materials.flatMap((material): Finding[] => {
    const metalness = scalarOf(material, 'metalness', 0);
    if (material.channels.metalness?.map || metalness <= DIELECTRIC || metalness >= METAL) return [];
    const value = metalness >= 0.5 ? 1 : 0;
    return [
      materialFinding(material, 'metalness', {
        code: 'surface.metalHalf',
        severity: 'note',
        title: 'Half a metal',
        message: `${material.key} has the metalness ${shown(metalness)} all over. Surfaces are metal or not; what is between belongs into a map.`,
        evidence: [`metalness ${shown(metalness)}, no map`],
        mend: {
          kind: 'setValues',
          slots: [{ material: material.key, channel: 'metalness' }],
          value,
          origin: { from: 'evidence', detail: `${shown(metalness)} is nearer to ${value}` },
        },
        safe: false,
        mendLabel: value === 1 ? 'Make metal' : 'Make no metal',
      }),
    ];
  });
