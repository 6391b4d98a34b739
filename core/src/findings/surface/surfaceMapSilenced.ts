import { constantValue } from '../../maps/constantValue.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import type { ChannelName } from '../../scene/material.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { addressOf, asItIs, slotFinding } from '../slots/slotFinding.ts';
import { scalarOf } from './materialFinding.ts';

/** Emission and opacity have findings of their own; the value of a normal is its strength. */
const APART: ReadonlySet<ChannelName> = new Set(['emission', 'opacity', 'normal']);

/**
 * An image that is made for its slot by name, and a factor of 0 that takes it away. One image for roughness and
 * metalness is often wired to both although the factor means but one, so that it is asked.
 */
export const surfaceMapSilenced: Check = ({ slots }) =>
  slots.flatMap((slot): Finding[] => {
    const { material, channel, content, file, facts, named, map } = slot;
    if (!file || APART.has(channel)) return [];
    const byValue = scalarOf(material, channel, 1) === 0;
    if (!byValue && map.gain !== 0) return [];
    const says = named?.readings.some((reading) => reading.channel === channel);
    if (!says || (facts && constantValue(channel, content, facts))) return [];
    const detail = `the factor of ${channelInWords(channel)} is 0`;
    return [
      slotFinding(slot, {
        code: 'surface.mapSilenced',
        step: 'surface',
        severity: 'warning',
        title: 'A map that does nothing',
        message: `${material.key} multiplies ${channelInWords(channel)} of ${file.path} by 0.`,
        evidence: [detail, ...(named?.evidence ?? [])],
        mend: byValue
          ? {
              kind: 'setValues',
              slots: [addressOf(slot)],
              value: typeof content.value === 'number' ? 1 : [1, 1, 1],
              origin: { from: 'evidence', detail },
            }
          : { kind: 'assignSlots', assignments: [asItIs(slot)], origin: { from: 'evidence', detail } },
        safe: false,
        mendLabel: 'Let it count',
      }),
    ];
  });
