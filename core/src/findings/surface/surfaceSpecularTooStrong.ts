import type { Rgb } from '../../scene/material.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { materialFinding, shown } from './materialFinding.ts';

/** A weight of 1 is all the light there is; rounding may go a little beyond. */
const MOST = 1.001;

/**
 * A specular weight or colour above 1: the surface gives back more light than it gets, looks lacquered and
 * sparkles.
 */
export const surfaceSpecularTooStrong: Check = ({ state }) =>
  state.materials.flatMap((material): Finding[] =>
    (['specular', 'specularColor'] as const).flatMap((channel): Finding[] => {
      const value = material.channels[channel]?.value;
      const most = largest(value);
      if (value === undefined || most <= MOST) return [];
      // The hue stays: all parts are divided by the largest.
      const mended =
        typeof value === 'number'
          ? 1
          : (value.map((component) => component / most) as [number, number, number]);
      return [
        materialFinding(material, channel, {
          code: 'surface.specularTooStrong',
          severity: 'warning',
          title: 'Reflects more than all',
          message: `${material.key} has the ${channel === 'specular' ? 'specular weight' : 'specular colour'} ${typeof value === 'number' ? shown(value) : value.map(shown).join(', ')}; above 1 surfaces look lacquered and sparkle.`,
          evidence: [
            'a weight of 1 reflects all that the index allows',
            `the largest part is ${shown(most)}`,
          ],
          mend: {
            kind: 'setValues',
            slots: [{ material: material.key, channel }],
            value: mended,
            origin: { from: 'evidence', detail: `${shown(most)} is more than all the light` },
          },
          safe: true,
          mendLabel: 'Bring to 1',
        }),
      ];
    }),
  );

function largest(value: number | Rgb | undefined) {
  if (value === undefined) return 0;
  return typeof value === 'number' ? value : Math.max(...value);
}
