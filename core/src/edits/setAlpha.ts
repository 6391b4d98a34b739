import type { EditDefinition } from './editKind.ts';

/** Changes alpha mode, cut-off, opacity value or sides of materials. */
export const setAlpha: EditDefinition<'setAlpha'> = {
  apply(draft, edit, _images, skip) {
    for (const key of edit.materials) {
      const material = draft.materials.find((other) => other.key === key);
      if (!material) {
        skip(`material ${key}`);
        continue;
      }
      const { opacity, ...rest } = edit.change;
      Object.assign(material, rest);
      if (opacity === undefined) continue;
      if (material.channels.opacity) material.channels.opacity.value = opacity;
      else if (opacity !== 1) material.channels.opacity = { value: opacity, map: null, source: edit.origin };
    }
  },
  describe(edit) {
    const { alphaMode, alphaCutoff, opacity, doubleSided } = edit.change;
    const parts = [
      alphaMode && `alpha mode ${alphaMode}`,
      alphaCutoff !== undefined && `cut-off ${alphaCutoff}`,
      opacity !== undefined && `opacity ${opacity}`,
      doubleSided !== undefined && (doubleSided ? 'two sides' : 'one side'),
    ].filter(Boolean);
    return `Set ${edit.materials.join(', ')} to ${parts.join(', ')}`;
  },
};
