import { isColourSpace } from '../../colour/spaces.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import { COLOUR_CHANNELS, type ColourSpace } from '../../scene/material.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import type { MappedSlot } from '../slots/mappedSlot.ts';
import { addressOf, slotFinding } from '../slots/slotFinding.ts';

/** One image read in two colour spaces by two colour slots: the same pixels look different side by side. */
export const colourMixedTags: Check = ({ slots }) => {
  const byFile = new Map<string, MappedSlot[]>();
  for (const slot of slots) {
    const { channel, map, file } = slot;
    if (!file || !COLOUR_CHANNELS.has(channel) || map.component === 'a' || !isColourSpace(map.space))
      continue;
    byFile.set(file.path, [...(byFile.get(file.path) ?? []), slot]);
  }
  return [...byFile].flatMap(([path, readers]): Finding[] => {
    const counts = new Map<ColourSpace, number>();
    for (const { map } of readers) counts.set(map.space, (counts.get(map.space) ?? 0) + 1);
    if (counts.size < 2) return [];
    const expected = readers[0].detected?.space;
    const [common] = [...counts].sort(
      (a, b) => Number(b[0] === expected) - Number(a[0] === expected) || b[1] - a[1],
    )[0];
    const others = readers.filter(({ map }) => map.space !== common);
    const why = `${counts.get(common)} of ${readers.length} slots read it as ${common}${common === expected ? ', as its kind is read by default' : ''}`;
    return [
      {
        ...slotFinding(others[0], {
          code: 'colour.mixedTags',
          step: 'colour',
          severity: 'warning',
          title: 'One image, several tags',
          message: `${path} is read as ${[...counts.keys()].join(' and as ')}.`,
          evidence: [
            ...readers.map(
              ({ material, channel, map }) => `${material.key}, ${channelInWords(channel)}: ${map.space}`,
            ),
            why,
          ],
          mend: {
            kind: 'adjustSlots',
            slots: others.map(addressOf),
            change: { space: common },
            origin: { from: 'evidence', detail: why },
          },
          safe: common === expected,
          mendLabel: `Tag all ${common}`,
        }),
        key: `colour.mixedTags:${path}`,
      },
    ];
  });
};
