import type { SceneDocument } from '../scene/document.ts';
import { type AssetState, nodeKeys } from './asset.ts';

/** The document with the materials that edits added, and with parts bound to the materials that edits gave them. */
export function applyBindings(document: SceneDocument, state: AssetState): SceneDocument {
  const existing = new Set(document.materials.map((material) => material.key));
  const added = state.materials.filter((material) => !existing.has(material.key));
  const bindings = state.bindings ?? {};
  if (added.length === 0 && Object.keys(bindings).length === 0) return document;
  const materials = [...document.materials, ...added];
  const keys = nodeKeys(document.nodes);
  const nodes = document.nodes.map((node, i) => {
    const index = materials.findIndex((material) => material.key === bindings[keys[i]]);
    if (node.mesh < 0 || index < 0) return node;
    return { ...node, materials: Array.from({ length: Math.max(1, node.materials.length) }, () => index) };
  });
  return { ...document, materials, nodes };
}
