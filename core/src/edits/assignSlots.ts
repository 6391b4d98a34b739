import { type ChannelName, createMapUse, unitValue, type Workflow } from '../scene/material.ts';
import {
  changeWorkflows,
  type EditDefinition,
  eachSlot,
  ensureChannel,
  pickImage,
  slotsInWords,
} from './editKind.ts';

/** Channels of other shading models. */
const LEFT_BEHIND: Record<Workflow, readonly ChannelName[]> = {
  specGloss: ['metalness', 'roughness'],
  legacy: ['metalness'],
  metalRough: [],
};

/**
 * Puts images of the parcel into slots. A slot that had a map keeps its UV set, transform and wrap; its value
 * becomes neutral, except an amount (bump, height). An opacity map makes an opaque material blend.
 */
export const assignSlots: EditDefinition<'assignSlots'> = {
  apply(draft, edit, images, skip) {
    eachSlot(draft, edit.clears ?? [], skip, (material, slot) => {
      delete material.channels[slot.channel];
    });
    eachSlot(draft, edit.assignments, skip, (material, slot) => {
      const assignment = edit.assignments.find(
        (other) => other.material === slot.material && other.channel === slot.channel,
      );
      if (!assignment) return;
      const { image, component, invert, space, normalY, channel } = assignment;
      const key = pickImage(draft, image, images);
      if (key === null) return skip(`file ${image}`);
      const target = ensureChannel(material, slot, edit);
      const { uvSet = null, transform = null, wrap = ['repeat', 'repeat'] } = target.map ?? {};
      target.map = createMapUse(key, channel, { component, invert, space, normalY, uvSet, transform, wrap });
      target.source = edit.origin;
      if (channel !== 'bump' && channel !== 'height') target.value = unitValue(channel);
      if (channel === 'opacity' && material.alphaMode === 'opaque') material.alphaMode = 'blend';
    });
    for (const { material: key, workflow } of edit.workflows ?? []) {
      const material = draft.materials.find((other) => other.key === key);
      // Values that the other model left behind would stand against the images of the new one.
      for (const channel of LEFT_BEHIND[workflow])
        if (material && !material.channels[channel]?.map) delete material.channels[channel];
    }
    changeWorkflows(draft, edit.workflows ?? [], skip);
  },
  describe(edit) {
    const files = [...new Set(edit.assignments.map((assignment) => assignment.image))];
    return `Assigned ${files.join(', ')} to ${slotsInWords(edit.assignments)}${edit.assignments.some((a) => a.invert) ? ', inverted' : ''}`;
  },
};
