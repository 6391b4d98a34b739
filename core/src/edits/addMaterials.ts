import { createMaterial, type Material } from '../scene/material.ts';
import type { EditDefinition } from './editKind.ts';

/**
 * Adds materials, empty metal/rough ones or copies of others. A name that is there already is passed over.
 */
export const addMaterials: EditDefinition<'addMaterials'> = {
  apply(draft, edit, _images, skip) {
    for (const { name, like } of edit.materials) {
      if (draft.materials.some((material) => material.key === name)) {
        skip(`material ${name}, which is there already,`);
        continue;
      }
      const model = like === null ? undefined : draft.materials.find((material) => material.key === like);
      if (like !== null && !model) skip(`material ${like}`);
      const made: Material = model ? JSON.parse(JSON.stringify(model)) : createMaterial(name, 'metalRough');
      draft.materials.push({ ...made, key: name, name });
    }
  },
  describe: (edit) =>
    `Created ${edit.materials.length === 1 ? `the material ${edit.materials[0].name}` : `${edit.materials.length} materials: ${edit.materials.map(({ name }) => name).join(', ')}`}`,
};
