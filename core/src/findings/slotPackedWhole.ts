import type { SlotAssignment } from '../asset/asset.ts';
import { writtenName } from '../links/writtenPath.ts';
import { classifyNames } from '../maps/classifyName.ts';
import { type ChannelName, defaultSpace } from '../scene/material.ts';
import type { Check, Finding } from './finding.ts';

/** A packed image (occlusion, roughness, metalness in r, g, b) that one slot reads as if it were made for it alone. */
export const slotPackedWhole: Check = ({ state }) => {
  const findings: Finding[] = [];
  const paths = state.images.map((image) => image.resolved ?? writtenName(image.written));
  const classes = classifyNames(paths);
  for (const material of state.materials) {
    for (const [name, channel] of Object.entries(material.channels)) {
      const at = state.images.findIndex((image) => image.key === channel?.map?.image);
      const found = classes[at];
      const path = state.images[at]?.resolved;
      if (!found?.packed || !path || !channel?.map) continue;
      const own = found.readings.find((reading) => reading.channel === name);
      if (own && channel.map.component === own.component) continue;
      const assignments = found.readings.map(
        (reading): SlotAssignment => ({
          material: material.key,
          channel: reading.channel,
          image: path,
          component: reading.component,
          invert: false,
          space: defaultSpace(reading.channel),
          normalY: 'Y+',
        }),
      );
      findings.push({
        code: 'slot.packedWhole',
        step: 'slots',
        severity: 'warning',
        key: `slot.packedWhole:${material.key}:${path}`,
        title: 'One image, several channels',
        subject: material.key,
        message: `${path} is read by its ${channel.map.component} as ${name}. ${found.readings.map((r) => `${r.component} ${r.channel}`).join(', ')}.`,
        evidence: found.evidence,
        mend: {
          kind: 'assignSlots',
          assignments,
          ...(own ? {} : { clears: [{ material: material.key, channel: name as ChannelName }] }),
          origin: { from: 'evidence', detail: found.evidence.join('; ') },
        },
        safe: true,
        mendLabel: 'Split',
        target: { material: material.key, channel: name as ChannelName, image: state.images[at].key },
      });
    }
  }
  return findings;
};
