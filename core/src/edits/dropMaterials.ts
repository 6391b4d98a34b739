import type { EditDefinition } from './editKind.ts';

/** Leaves materials out; faces that have one of them have none then. */
export const dropMaterials: EditDefinition<'dropMaterials'> = {
  apply(draft, { materials }, _images, skip) {
    for (const key of materials) {
      const index = draft.materials.findIndex((material) => material.key === key);
      if (index < 0) skip(`material ${key}`);
      else {
        draft.materials.splice(index, 1);
        draft.merged = { ...draft.merged, [key]: '' };
      }
    }
  },
  describe: ({ materials }) =>
    `Dropped ${materials.length === 1 ? `the material ${materials[0]}` : `${materials.length} materials`}`,
};
