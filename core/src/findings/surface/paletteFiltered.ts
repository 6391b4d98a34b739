import { paletteUse } from '../../asset/palette.ts';
import { percent } from '../../maps/judgePixels.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { materialFinding } from './materialFinding.ts';

/**
 * A palette whose neighbouring swatches are mixed by smooth filtering: seams and wrong colours at a distance.
 */
export const paletteFiltered: Check = ({ source, slots }) =>
  slots.flatMap(({ material, channel, map, facts, file }): Finding[] => {
    const palette = facts && file && paletteUse(source, material.key, facts);
    if (!palette || map.filter === 'nearest') return [];
    return [
      {
        ...materialFinding(material, channel, {
          code: 'palette.filtered',
          severity: 'warning',
          title: 'Palette is filtered',
          message: `${material.key} reads swatches of the palette ${file.path} with smooth filtering, which mixes neighbours.`,
          evidence: [
            `${palette.colours} colours in flat areas`,
            `${percent(palette.points)} of the faces use one point of it`,
          ],
          mend: {
            kind: 'adjustSlots',
            slots: [{ material: material.key, channel }],
            change: { filter: 'nearest' },
            origin: { from: 'evidence', detail: 'a palette is taken texel by texel' },
          },
          safe: true,
          mendLabel: 'Nearest filtering',
        }),
        key: `palette.filtered:${material.key}:${channel}`,
      },
    ];
  });
