import type { SceneDocument } from '../scene/document.ts';
import type { Material } from '../scene/material.ts';
import { placedParts, plainName } from './worldParts.ts';

/** The materials of a model, and the document whose parts carry them. */
export interface MaterialsOfModel {
  document: SceneDocument;
  materials: readonly Material[];
}

/**
 * Which material of the second a name stands for. Where several share it, the one that is on most of the same
 * parts, else the one that comes as far down among those of the name.
 */
export function createMaterialPairs(
  a: MaterialsOfModel,
  b: MaterialsOfModel,
): (first: Material, name: string) => Material | undefined {
  const named = byName(b.materials);
  const firsts = byName(a.materials);
  let parts: [Map<string, Set<string>>, Map<string, Set<string>>] | null = null;
  return (first, name) => {
    const group = named.get(plainName(name)) ?? [];
    if (group.length < 2) return group[0];
    parts ??= [partsByMaterial(a.document), partsByMaterial(b.document)];
    const [before, after] = parts;
    const carriers = before.get(first.key) ?? new Set();
    const shared = group.map(({ key }) =>
      [...(after.get(key) ?? [])].reduce((sum, part) => sum + (carriers.has(part) ? 1 : 0), 0),
    );
    const place = (firsts.get(plainName(first.name)) ?? []).indexOf(first);
    const most = Math.max(...shared);
    return shared[place] === most ? group[place] : group[shared.indexOf(most)];
  };
}

function byName(materials: readonly Material[]): Map<string, Material[]> {
  const groups = new Map<string, Material[]>();
  for (const material of materials) {
    const name = plainName(material.name);
    const group = groups.get(name);
    if (group) group.push(material);
    else groups.set(name, [material]);
  }
  return groups;
}

/** Names of the parts that carry each material, by its key. */
function partsByMaterial(document: SceneDocument): Map<string, Set<string>> {
  const parts = new Map<string, Set<string>>();
  for (const { name, node } of placedParts(document))
    for (const index of document.nodes[node].materials) {
      const key = document.materials[index]?.key;
      if (key !== undefined) parts.set(key, (parts.get(key) ?? new Set()).add(name));
    }
  return parts;
}
