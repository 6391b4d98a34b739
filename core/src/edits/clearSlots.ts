import { type EditDefinition, eachSlot, slotsInWords } from './editKind.ts';

/** Empties slots: the channel has neither map nor value any more. */
export const clearSlots: EditDefinition<'clearSlots'> = {
  apply(draft, edit, _images, skip) {
    eachSlot(draft, edit.slots, skip, (material, slot) => {
      delete material.channels[slot.channel];
      if (slot.channel === 'opacity') material.alphaMode = 'opaque';
    });
  },
  describe: (edit) => `Cleared ${slotsInWords(edit.slots)}`,
};
