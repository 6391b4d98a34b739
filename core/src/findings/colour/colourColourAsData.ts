import { COLOUR_CHANNELS } from '../../scene/material.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { addressOf, slotFinding, slotInWords } from '../slots/slotFinding.ts';

/** A colour image tagged as data: its encoded numbers are taken for light and look washed out. */
export const colourColourAsData: Check = ({ slots }) =>
  slots.flatMap((slot): Finding[] => {
    const { channel, map, file } = slot;
    // Floats are often linear and tagged raw, which reads them right.
    if (
      !COLOUR_CHANNELS.has(channel) ||
      map.space !== 'data' ||
      map.component === 'a' ||
      !file?.info ||
      file.info.floating
    )
      return [];
    const why = `${file.info.bitDepth}-bit colour is sRGB-encoded unless told otherwise`;
    return [
      slotFinding(slot, {
        code: 'colour.colourAsData',
        step: 'colour',
        severity: 'warning',
        title: 'Colour tagged as data',
        message: `${slotInWords(slot)} with the tag data, so its encoded numbers are taken for light and look too pale.`,
        evidence: [why],
        mend: {
          kind: 'adjustSlots',
          slots: [addressOf(slot)],
          change: { space: 'srgb_rec709_scene' },
          origin: { from: 'evidence', detail: why },
        },
        safe: true,
        mendLabel: 'Tag as sRGB',
      }),
    ];
  });
