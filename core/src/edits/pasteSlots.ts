import { pickedPath } from '../scene/pickedImage.ts';
import { changeWorkflows, type EditDefinition, eachSlot, pickImage, slotsInWords } from './editKind.ts';

/**
 * Puts copied contents into slots: image, reading and value. An opacity map makes an opaque material blend;
 * materials may change their shading model.
 */
export const pasteSlots: EditDefinition<'pasteSlots'> = {
  apply(draft, edit, images, skip) {
    eachSlot(draft, edit.slots, skip, (material, slot) => {
      const content =
        edit.slots.find((other) => other.material === slot.material && other.channel === slot.channel)
          ?.content ?? null;
      if (!content) {
        delete material.channels[slot.channel];
        return;
      }
      const { map, value } = content;
      const existing = map && draft.images.some((entry) => entry.key === map.image);
      const image =
        map && (existing ? map.image : pickImage(draft, pickedPath(map.image) ?? map.image, images));
      if (map && image === null) return skip(`image ${map.image}`);
      material.channels[slot.channel] = {
        value,
        map: map && { ...map, image: image as string },
        source: edit.origin,
      };
      if (slot.channel === 'opacity' && map && material.alphaMode === 'opaque') material.alphaMode = 'blend';
    });
    changeWorkflows(draft, edit.workflows ?? [], skip);
  },
  describe: ({ slots, what = 'Pasted into' }) => `${what} ${slotsInWords(slots)}`,
};
