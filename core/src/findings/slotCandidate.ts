import type { SlotAssignment } from '../asset/asset.ts';
import { slotPackedWhole } from './slotPackedWhole.ts';
import type { Check, Finding } from './finding.ts';

/** Empty slots for which an image of the material's own set lies in the parcel, one finding per material and image. */
export const slotCandidate: Check = (context) => {
  // A packed image that is read whole is the subject of slot.packedWhole, with all its channels.
  const split = new Set(slotPackedWhole(context).flatMap(({ mend }) => (mend?.kind === 'assignSlots' ? mend.assignments.map(idOf) : [])));
  const groups = new Map<string, Finding>();
  for (const { reason, confidence, ...assignment } of context.suggestions()) {
    // A slot whose image is missing is already the subject of link.missing.
    if (context.slots.some(({ material, channel }) => material.key === assignment.material && channel === assignment.channel)) continue;
    if (split.has(idOf(assignment))) continue;
    const key = `slot.candidate:${assignment.material}:${assignment.image}`;
    const known = groups.get(key);
    if (known?.mend?.kind === 'assignSlots') {
      known.mend.assignments.push(assignment);
      known.message = sentence(
        known.mend.assignments.map((a) => a.channel),
        assignment.image,
        assignment.material,
      );
      continue;
    }
    groups.set(key, {
      code: 'slot.candidate',
      step: 'slots',
      severity: 'note',
      key,
      title: 'Fitting image, empty slot',
      subject: assignment.material,
      message: sentence([assignment.channel], assignment.image, assignment.material),
      evidence: [reason],
      mend: { kind: 'assignSlots', assignments: [assignment], origin: { from: 'evidence', detail: reason } },
      safe: confidence >= 0.8 && !assignment.invert,
      mendLabel: 'Assign',
      target: { material: assignment.material, channel: assignment.channel, image: assignment.image },
    });
  }
  return [...groups.values()];
};

function idOf({ material, channel, image }: SlotAssignment): string {
  return [material, channel, image].join('\n');
}

function sentence(channels: string[], image: string, material: string): string {
  const list = channels.length === 1 ? channels[0] : `${channels.slice(0, -1).join(', ')} and ${channels.at(-1)}`;
  return `${image} could feed ${list} of ${material}.`;
}
