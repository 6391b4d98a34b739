import { isColourSpace, spaceDefinition } from '../../colour/spaces.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import { COLOUR_CHANNELS } from '../../scene/material.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { addressOf, slotFinding, slotInWords } from '../slots/slotFinding.ts';

/**
 * A data map with the tag of an encoded colour space: undoing the curve bends roughness, normals and heights.
 */
export const colourDataAsColour: Check = ({ slots }) =>
  slots.flatMap((slot): Finding[] => {
    const { channel, map } = slot;
    if (COLOUR_CHANNELS.has(channel) || map.component === 'a' || !isColourSpace(map.space)) return [];
    if (spaceDefinition(map.space).transfer.linear) return [];
    const why = `${channelInWords(channel)} holds data`;
    return [
      slotFinding(slot, {
        code: 'colour.dataAsColour',
        step: 'colour',
        severity: 'warning',
        title: 'Data tagged as colour',
        message: `${slotInWords(slot)}; tagged ${map.space}, a stored 0.5 would be read as ${spaceDefinition(map.space).transfer.decode(0.5).toFixed(2)}.`,
        evidence: [`${why}, its tag is ${map.space}`],
        mend: {
          kind: 'adjustSlots',
          slots: [addressOf(slot)],
          change: { space: 'data' },
          origin: { from: 'evidence', detail: why },
        },
        safe: true,
        mendLabel: 'Tag as data',
      }),
    ];
  });
