import { channelInWords } from '../../scene/channelTitles.ts';
import type { ChannelName, Material } from '../../scene/material.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';

/** So many materials with maps make a custom that others can be held against. */
const LEAST_SIBLINGS = 3;
/** Share of the siblings that have the channel. */
const MOST_HAVE = 0.7;

/**
 * A material with maps that lacks a channel which most of its siblings have: perhaps a file that never came.
 */
export const slotLacking: Check = ({ state }) => {
  const mapped = state.materials.filter((material) => mapsOf(material).length > 0);
  if (mapped.length < LEAST_SIBLINGS + 1) return [];
  const counts = new Map<ChannelName, number>();
  for (const material of mapped)
    for (const channel of mapsOf(material)) counts.set(channel, (counts.get(channel) ?? 0) + 1);
  return mapped.flatMap((material): Finding[] => {
    const mappedChannels = new Set(mapsOf(material));
    const lacking = [...counts]
      .filter(([channel, count]) => !mappedChannels.has(channel) && count / (mapped.length - 1) >= MOST_HAVE)
      .map(([channel]) => channel);
    if (lacking.length === 0) return [];
    return [
      {
        code: 'slot.lacking',
        step: 'slots',
        severity: 'note',
        key: `slot.lacking:${material.key}`,
        title: 'Fewer maps than its siblings',
        subject: material.key,
        message: `${material.key} has no image for ${lacking.map(channelInWords).join(', ')}, which most other materials have.`,
        evidence: lacking.map(
          (channel) =>
            `${counts.get(channel)} of ${mapped.length - 1} others have ${channelInWords(channel)}`,
        ),
        mend: null,
        safe: false,
        mendLabel: '',
        target: { material: material.key, channel: lacking[0] },
      },
    ];
  });
};

function mapsOf({ channels }: Material): ChannelName[] {
  return Object.entries(channels).flatMap(([name, channel]) => (channel?.map ? [name as ChannelName] : []));
}
