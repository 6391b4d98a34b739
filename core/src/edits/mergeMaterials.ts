import type { EditDefinition } from './editKind.ts';

/** Lets materials give way to one that is equal; their faces take it. */
export const mergeMaterials: EditDefinition<'mergeMaterials'> = {
  apply(draft, { materials, into }, _images, skip) {
    if (!draft.materials.some(({ key }) => key === into)) return skip(`material ${into}`);
    for (const key of materials) {
      const index = draft.materials.findIndex((material) => material.key === key);
      if (key === into) continue;
      if (index < 0) {
        skip(`material ${key}`);
        continue;
      }
      draft.materials.splice(index, 1);
      const before = Object.entries(draft.merged ?? {}).flatMap(([from, to]) =>
        to === key ? [[from, into]] : [],
      );
      draft.merged = { ...draft.merged, ...Object.fromEntries(before), [key]: into };
    }
  },
  describe: ({ materials, into }) =>
    `Merged ${materials.length === 1 ? materials[0] : `${materials.length} materials`} into ${into}`,
};
