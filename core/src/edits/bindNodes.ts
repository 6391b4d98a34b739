import type { EditDefinition } from './editKind.ts';

/** Gives parts one material for all their faces. */
export const bindNodes: EditDefinition<'bindNodes'> = {
  apply(draft, edit, _images, skip) {
    if (!draft.materials.some((material) => material.key === edit.material))
      return skip(`material ${edit.material}`);
    draft.bindings = {
      ...draft.bindings,
      ...Object.fromEntries(edit.nodes.map((node) => [node, edit.material])),
    };
  },
  describe: (edit) =>
    `Gave ${edit.nodes.length === 1 ? edit.nodes[0] : `${edit.nodes.length} parts`} the material ${edit.material}`,
};
