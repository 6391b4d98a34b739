import type { SceneDocument, SceneNode } from './document.ts';
import { createMaterial } from './material.ts';

const NAME = 'no_material';

/** A document where faces got a plain material, and the names of the parts whose faces did. */
export interface Filled {
  document: SceneDocument;
  parts: string[];
}

/**
 * The document with a plain material for faces that have none, for formats that would pass on to them the one
 * before. The same document where all faces have one, or none has.
 */
export function withMaterialForAll(document: SceneDocument): Filled {
  const lacking = document.nodes.map((node) => lackingSlots(node, document));
  const has = document.nodes.some(
    (node, i) => node.mesh >= 0 && usedSlots(node, document).length > lacking[i].length,
  );
  return has ? filled(document, lacking) : { document, parts: [] };
}

/**
 * The document with a plain material for slots that have none beside others of their part that have one: FBX
 * numbers the slots of a part by its materials, and readers of USD fall back to one or another.
 */
export function withMaterialForSlots(document: SceneDocument): Filled {
  const lacking = document.nodes.map((node) => {
    const isBound = (slot: number) => document.materials[node.materials[slot] ?? -1] !== undefined;
    const slots = [...new Set([...usedSlots(node, document), ...node.materials.keys()])];
    return node.mesh >= 0 && slots.some(isBound) ? slots.filter((slot) => !isBound(slot)) : [];
  });
  return filled(document, lacking);
}

/** Puts a plain material into slots, by node. */
function filled(document: SceneDocument, lacking: readonly number[][]): Filled {
  if (lacking.every((slots) => slots.length === 0)) return { document, parts: [] };
  let name = NAME;
  for (
    let i = 2;
    document.materials.some((material) => material.name === name || material.key === name);
    i += 1
  )
    name = `${NAME}_${i}`;
  const materials = [...document.materials, { ...createMaterial(name, 'metalRough'), key: name }];
  const nodes = document.nodes.map((node, i): SceneNode => {
    if (lacking[i].length === 0) return node;
    const slots = [...node.materials];
    for (const slot of lacking[i]) {
      while (slots.length <= slot) slots.push(-1);
      slots[slot] = document.materials.length;
    }
    return { ...node, materials: slots };
  });
  return {
    document: { ...document, materials, nodes },
    parts: document.nodes.filter((_, i) => lacking[i].length > 0).map(({ name }) => name),
  };
}

/** The material slots of a node that its faces are in. */
export function usedSlots({ mesh }: SceneNode, { meshes }: SceneDocument): number[] {
  if (mesh < 0 || meshes[mesh].faceCounts.length === 0) return [];
  return meshes[mesh].faceMaterial ? [...new Set(meshes[mesh].faceMaterial)] : [0];
}

function lackingSlots(node: SceneNode, document: SceneDocument): number[] {
  return usedSlots(node, document).filter(
    (slot) => document.materials[node.materials[slot] ?? -1] === undefined,
  );
}
