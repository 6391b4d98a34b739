import { sayColours } from '../scene/material.ts';
import type { EditDefinition } from './editKind.ts';

/** Changes alpha mode, cut-off, opacity value, sides, colours of points or the thickness of glass of materials. */
export const setAlpha: EditDefinition<'setAlpha'> = {
  apply(draft, edit, _images, skip) {
    for (const key of edit.materials) {
      const material = draft.materials.find((other) => other.key === key);
      if (!material) {
        skip(`material ${key}`);
        continue;
      }
      const { opacity, thickness, colours, ...rest } = edit.change;
      Object.assign(material, rest);
      if (colours !== undefined) sayColours(material, colours === 'shown');
      if (thickness === 0) delete material.thickness;
      else if (thickness !== undefined) material.thickness = thickness;
      if (opacity === undefined) continue;
      if (material.channels.opacity)
        Object.assign(material.channels.opacity, { value: opacity, source: edit.origin });
      else if (opacity !== 1) material.channels.opacity = { value: opacity, map: null, source: edit.origin };
    }
  },
  describe(edit) {
    const { alphaMode, alphaCutoff, opacity, doubleSided, colours, thickness } = edit.change;
    const parts = [
      alphaMode && `alpha mode ${alphaMode}`,
      alphaCutoff !== undefined && `cut-off ${alphaCutoff}`,
      opacity !== undefined && `opacity ${opacity}`,
      doubleSided !== undefined && (doubleSided ? 'two sides' : 'one side'),
      colours && `colours of points ${colours === 'shown' ? 'shown' : 'passed over'}`,
      thickness !== undefined && (thickness === 0 ? 'thin walls' : `solid, ${thickness} units thick`),
    ].filter(Boolean);
    return `Set ${edit.materials.join(', ')} to ${parts.join(', ')}`;
  },
};
