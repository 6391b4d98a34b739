import { type Rgb, VECTOR_CHANNELS } from '../scene/material.ts';
import { type EditDefinition, eachSlot, ensureChannel, slotsInWords } from './editKind.ts';

/** Gives slots a value; a map that is there stays and is multiplied by it. */
export const setValues: EditDefinition<'setValues'> = {
  apply(draft, edit, _images, skip) {
    eachSlot(draft, edit.slots, skip, (material, slot) => {
      const channel = ensureChannel(material, slot, edit);
      channel.value = fitValue(edit.value, VECTOR_CHANNELS.has(slot.channel));
      channel.source = edit.origin;
    });
  },
  describe(edit) {
    const text =
      typeof edit.value === 'number'
        ? edit.value.toFixed(3)
        : edit.value.map((component) => component.toFixed(3)).join(' ');
    return `Set ${slotsInWords(edit.slots)} to the value ${text}`;
  },
};

function fitValue(value: number | Rgb, vector: boolean): number | Rgb {
  if (vector) return typeof value === 'number' ? [value, value, value] : value;
  return typeof value === 'number' ? value : (value[0] + value[1] + value[2]) / 3;
}
