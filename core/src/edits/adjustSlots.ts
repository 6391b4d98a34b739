import { channelInWords } from '../scene/channelTitles.ts';
import { type EditDefinition, eachSlot, slotsInWords } from './editKind.ts';

const REPAIRS = {
  none: 'vectors as stored',
  unit: 'vectors of unit length',
  blue: 'blue made from red and green',
};

/**
 * Changes how slots read their images: component, inversion, colour tag, exponent, normal direction and
 * repair.
 */
export const adjustSlots: EditDefinition<'adjustSlots'> = {
  apply(draft, edit, _images, skip) {
    eachSlot(draft, edit.slots, skip, (material, slot) => {
      const channel = material.channels[slot.channel];
      if (!channel?.map) return skip(`map of ${slot.material}, ${channelInWords(slot.channel)}`);
      const { exponent, repair, filter, ...rest } = edit.change;
      Object.assign(channel.map, rest);
      if (rest.space) channel.map.spaceFrom = 'edit';
      if (exponent === 1) delete channel.map.exponent;
      else if (exponent !== undefined) channel.map.exponent = exponent;
      if (repair === 'none') delete channel.map.repair;
      else if (repair) channel.map.repair = repair;
      if (filter === 'smooth') delete channel.map.filter;
      else if (filter) channel.map.filter = filter;
      channel.source = edit.origin;
    });
  },
  describe(edit) {
    const { component, invert, space, normalY, exponent, repair, filter } = edit.change;
    const parts = [
      component && `component ${component}`,
      invert !== undefined && (invert ? 'inverted' : 'not inverted'),
      space && `colour tag ${space}`,
      normalY && `normal ${normalY}`,
      exponent !== undefined && (exponent === 1 ? 'no exponent' : `exponent ${exponent.toFixed(3)}`),
      repair && REPAIRS[repair],
      filter && (filter === 'nearest' ? 'nearest filtering' : 'smooth filtering'),
    ].filter(Boolean);
    return `Set ${slotsInWords(edit.slots)} to ${parts.join(', ')}`;
  },
};
