import { channelInWords } from '../scene/channelTitles.ts';
import { type EditDefinition, eachSlot, slotsInWords } from './editKind.ts';

/** Takes constant maps out of slots and puts their value there instead. */
export const unmapSlots: EditDefinition<'unmapSlots'> = {
  apply(draft, edit, _images, skip) {
    eachSlot(draft, edit.slots, skip, (material, slot) => {
      const channel = material.channels[slot.channel];
      if (!channel?.map) return skip(`map of ${slot.material}, ${channelInWords(slot.channel)}`);
      draft.unmapped = [...new Set([...(draft.unmapped ?? []), channel.map.image])];
      const { value } = edit.slots.find(
        (other) => other.material === slot.material && other.channel === slot.channel,
      ) ?? { value: null };
      if (value === null) delete material.channels[slot.channel];
      else Object.assign(channel, { value, map: null, source: edit.origin });
    });
  },
  describe: (edit) =>
    `Replaced the constant map${edit.slots.length === 1 ? '' : 's'} of ${slotsInWords(edit.slots)} by ${edit.slots.length === 1 ? 'its value' : 'their values'}`,
};
