import { pickedPath } from '../scene/pickedImage.ts';
import { type EditDefinition, pickImage } from './editKind.ts';

/**
 * Puts a canonical material in the place of others: all of its channels, its transparency and its sides. Keys
 * and names stay.
 */
export const replaceMaterials: EditDefinition<'replaceMaterials'> = {
  apply(draft, edit, images, skip) {
    const { workflow, alphaMode, alphaCutoff, doubleSided, exponent, channels } = edit.by;
    for (const key of edit.materials) {
      const material = draft.materials.find((other) => other.key === key);
      if (!material) {
        skip(`material ${key}`);
        continue;
      }
      Object.assign(material, { workflow, alphaMode, alphaCutoff, doubleSided, exponent, channels: {} });
      for (const [channel, { value, map }] of Object.entries(channels)) {
        const existing = map && draft.images.find((entry) => entry.key === map.image);
        const image = map && (existing?.key ?? pickImage(draft, pickedPath(map.image) ?? map.image, images));
        if (map && image === null) skip(`image ${map.image}`);
        else
          material.channels[channel as keyof typeof channels] = {
            value,
            map: map && { ...map, image: image as string },
            source: edit.origin,
          };
      }
    }
  },
  describe: ({ materials, by }) =>
    `Replaced ${materials.length === 1 ? materials[0] : `${materials.length} materials`} by ${by.name}`,
};
