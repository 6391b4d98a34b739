import { type EditDefinition, eachSlot, slotsInWords } from './editKind.ts';

/** Changes how slots read their images: component, inversion, colour tag, normal direction. */
export const adjustSlots: EditDefinition<'adjustSlots'> = {
  apply(draft, edit, _images, skip) {
    eachSlot(draft, edit.slots, skip, (material, slot) => {
      const channel = material.channels[slot.channel];
      if (!channel?.map) return skip(`map of ${slot.material}, ${slot.channel}`);
      Object.assign(channel.map, edit.change);
      channel.source = edit.origin;
    });
  },
  describe(edit) {
    const { component, invert, space, normalY } = edit.change;
    const parts = [
      component && `component ${component}`,
      invert !== undefined && (invert ? 'inverted' : 'not inverted'),
      space && `colour tag ${space}`,
      normalY && `normal ${normalY}`,
    ].filter(Boolean);
    return `Set ${slotsInWords(edit.slots)} to ${parts.join(', ')}`;
  },
};
