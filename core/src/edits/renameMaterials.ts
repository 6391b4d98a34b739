import type { EditDefinition } from './editKind.ts';

/** Gives materials other names; their keys, which edits go by, stay. */
export const renameMaterials: EditDefinition<'renameMaterials'> = {
  apply(draft, { names }, _images, skip) {
    for (const { material: key, name } of names) {
      const material = draft.materials.find((other) => other.key === key);
      if (material) material.name = name;
      else skip(`material ${key}`);
    }
  },
  describe: ({ names }) =>
    names.length === 1
      ? `Renamed the material ${names[0].material} to ${names[0].name}`
      : `Renamed ${names.length} materials`,
};
