import { alignUvSets } from '../scene/alignUvSets.ts';
import { changeParts } from '../scene/changeParts.ts';
import type { SceneDocument } from '../scene/document.ts';
import type { Loss } from '../scene/loss.ts';
import { measureShape } from '../shape/shapeFacts.ts';
import { type AssetState, nodeKeys } from './asset.ts';

/** A document as edits have left it, and what skins and clips lose by that. */
export interface EditedDocument {
  document: SceneDocument;
  /** Of its nodes. */
  keys: string[];
  losses: Loss[];
}

/**
 * The document with what edits did to parts and to the list of materials: those added, bound, merged,
 * dropped, renamed and numbered. Channels and values are the state's, not the document's. The document itself
 * is not changed.
 */
export function editedDocument(document: SceneDocument, state: AssetState): EditedDocument {
  const listed = withMaterials(document, state);
  const keys = nodeKeys(document.nodes);
  const channels = new Map(state.materials.map((material) => [material.key, material.channels]));
  const aligned = (whole: SceneDocument) =>
    alignUvSets(whole, (material) => channels.get(material.key) ?? material.channels);
  if (!state.parts?.length) return { document: aligned(listed), keys, losses: [] };
  const changed = changeParts(listed, keys, state.parts, (mesh) => measureShape(mesh).balance);
  return { ...changed, document: aligned(withBoundPieces(changed, new Set(keys), state)) };
}

/** Parts that edits made get the materials that were given to them. */
function withBoundPieces(
  { document, keys }: { document: SceneDocument; keys: readonly string[] },
  existingKeys: ReadonlySet<string>,
  state: AssetState,
): SceneDocument {
  const { bindings = {}, merged = {} } = state;
  const index = new Map(document.materials.map(({ key }, i) => [key, i]));
  const nodes = document.nodes.map((node, i) => {
    if (node.mesh < 0 || existingKeys.has(keys[i]) || !Object.hasOwn(bindings, keys[i])) return node;
    const bound = index.get(merged[bindings[keys[i]]] ?? bindings[keys[i]]);
    return bound === undefined
      ? node
      : { ...node, materials: Array.from({ length: Math.max(1, node.materials.length) }, () => bound) };
  });
  return { ...document, nodes };
}

function withMaterials(document: SceneDocument, state: AssetState): SceneDocument {
  const { bindings = {}, merged = {}, numbers = {} } = state;
  const existing = new Set(document.materials.map(({ key }) => key));
  const added = state.materials.filter(({ key }) => !existing.has(key));
  const names = new Map(state.materials.map(({ key, name }) => [key, name]));
  const renamed = document.materials.some(({ key, name }) => (names.get(key) ?? name) !== name);
  const untouched = [bindings, merged, numbers].every((record) => Object.keys(record).length === 0);
  if (added.length === 0 && untouched && !renamed) return document;
  const all = [...document.materials, ...added];
  const keptMaterials = all
    .filter(({ key }) => !Object.hasOwn(merged, key))
    .map((material) => ({ ...material, name: names.get(material.key) ?? material.name }));
  // Those with a number come by it; the others after them, as they were.
  const place = ({ key }: { key: string }) =>
    Object.hasOwn(numbers, key) ? numbers[key] : Number.POSITIVE_INFINITY;
  const materials = keptMaterials
    .map((material, i) => ({ material, i }))
    .sort((a, b) => place(a.material) - place(b.material) || a.i - b.i || 0);
  const index = new Map(materials.map(({ material }, i) => [material.key, i]));
  const indexOf = (key: string | undefined): number =>
    key === undefined ? -1 : (index.get(Object.hasOwn(merged, key) ? merged[key] : key) ?? -1);
  const keys = nodeKeys(document.nodes);
  const nodes = document.nodes.map((node, i) => {
    if (node.mesh < 0) return node;
    const slotKeys = node.materials.map((slot) => document.materials[slot]?.key ?? '');
    const bound = Object.hasOwn(bindings, keys[i]) ? indexOf(bindings[keys[i]]) : -1;
    if (bound >= 0)
      return {
        ...node,
        slotKeys,
        materials: Array.from({ length: Math.max(1, node.materials.length) }, () => bound),
      };
    return { ...node, slotKeys, materials: node.materials.map((slot) => indexOf(all[slot]?.key)) };
  });
  return { ...document, materials: materials.map(({ material }) => material), nodes };
}
