import type { SceneDocument } from './document.ts';

/**
 * The document without the materials that nothing uses and that `keep` does not want. Nodes point at the same
 * ones as before.
 */
export function pruneMaterials(document: SceneDocument, keep: (key: string) => boolean): SceneDocument {
  const used = new Set(document.nodes.flatMap((node) => (node.mesh < 0 ? [] : node.materials)));
  const keptMaterials = document.materials.flatMap((material, i) =>
    used.has(i) || keep(material.key) ? [i] : [],
  );
  if (keptMaterials.length === document.materials.length) return document;
  const renumbered = new Map(keptMaterials.map((index, i) => [index, i]));
  return {
    ...document,
    materials: keptMaterials.map((index) => document.materials[index]),
    nodes: document.nodes.map((node) => ({
      ...node,
      materials: node.materials.map((index) => renumbered.get(index) ?? -1),
    })),
  };
}
