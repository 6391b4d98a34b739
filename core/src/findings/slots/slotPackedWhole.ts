import type { SlotAssignment } from '../../asset/asset.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import { type ChannelName, type Component, defaultSpace } from '../../scene/material.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { addressOf, slotFinding, workflowsFor } from './slotFinding.ts';

/** Components that glTF gives to what it packs. */
const BY_FORMAT: Partial<Record<ChannelName, Component>> = { roughness: 'g', metalness: 'b' };

/**
 * A packed image (occlusion, roughness, metalness in r, g, b) that one slot reads as if it were made for it
 * alone.
 */
export const slotPackedWhole: Check = ({ source, slots, verdictOf }) => {
  const seen = new Set<string>();
  return slots.flatMap((slot): Finding[] => {
    const verdict = verdictOf(slot);
    const { file, named, detected, channel, map, material } = slot;
    const key = `slot.packedWhole:${material.key}:${file?.path}`;
    if (verdict?.kind !== 'packedWhole' || !file || !named || seen.has(key)) return [];
    seen.add(key);
    const byFormat = source.format === 'gltf' && BY_FORMAT[channel] === map.component;
    // What the name takes for occlusion is none, so that its words are in another order.
    const lacks = named.readings.some((reading) => reading.channel === 'occlusion');
    if (byFormat && lacks && !detected?.readings.some((reading) => reading.channel === 'occlusion'))
      return [];
    const { readings } = verdict;
    const readsChannel = readings.some((reading) => reading.channel === channel);
    const assignments = readings.map(
      (reading): SlotAssignment => ({
        material: material.key,
        channel: reading.channel,
        image: file.path,
        component: reading.component,
        invert: reading.invert,
        space: defaultSpace(reading.channel),
        normalY: 'Y+',
      }),
    );
    const finding = slotFinding(slot, {
      code: 'slot.packedWhole',
      step: 'slots',
      severity: 'warning',
      title: 'One image, several channels',
      message: `${file.path} is read by its ${map.component} as ${channelInWords(channel)}. ${readings.map((r) => `${r.component} ${channelInWords(r.channel)}`).join(', ')}.`,
      evidence: named.evidence,
      mend: {
        kind: 'assignSlots',
        assignments,
        ...(readsChannel ? {} : { clears: [addressOf(slot)] }),
        ...workflowsFor(
          slot,
          readings.map((reading) => reading.channel),
        ),
        origin: { from: 'evidence', detail: named.evidence.join('; ') },
      },
      // The format says where roughness and metalness lie; programs that pack them so keep the names of before.
      safe: !byFormat,
      mendLabel: 'Split',
    });
    return [{ ...finding, key }];
  });
};
