import { type EditDefinition, eachSlot, slotsInWords } from './editKind.ts';

/** Puts copied contents into slots: image, reading and value. An opacity map makes an opaque material blend. */
export const pasteSlots: EditDefinition<'pasteSlots'> = {
  apply(draft, edit, images, skip) {
    eachSlot(draft, edit.slots, skip, (material, slot) => {
      const content = edit.slots.find((other) => other.material === slot.material && other.channel === slot.channel)?.content ?? null;
      if (!content) {
        delete material.channels[slot.channel];
        return;
      }
      const { map, value } = content;
      if (map && !draft.images.some((entry) => entry.key === map.image)) {
        const path = map.image.replace(/^parcel:/, '');
        if (!images.some((image) => image.path === path)) return skip(`image ${map.image}`);
        draft.images.push({ key: map.image, written: path, relative: null, status: 'found', resolved: path, how: 'picked from the parcel' });
      }
      material.channels[slot.channel] = { value, map: map && { ...map }, source: edit.origin };
      if (slot.channel === 'opacity' && map && material.alphaMode === 'opaque') material.alphaMode = 'blend';
    });
  },
  describe: (edit) => `Pasted into ${slotsInWords(edit.slots)}`,
};
