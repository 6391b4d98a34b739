import type { SceneDocument } from '../scene/document.ts';
import { type Difference, difference } from './difference.ts';
import { loneNodes } from './loneNodes.ts';
import { pairByPlace } from './pairParts.ts';
import { placedParts, plainName } from './worldParts.ts';

/**
 * Compares what each part hangs on. Nodes that only one side has (roots and wrappers that formats need) do
 * not count; what both know must stand above the same parts.
 */
export function compareHierarchy(a: SceneDocument, b: SceneDocument): Difference[] {
  const parts = new Map(placedParts(b).map(({ name, node }) => [name, node]));
  const [first, second] = [loneNodes(a), loneNodes(b)];
  const shared = new Set([...first.keys()].filter((name) => second.has(name)));
  const byName = new Map<string, [number, number][]>();
  for (const { name, bare, node } of placedParts(a)) {
    const other = parts.get(name);
    if (other === undefined) continue;
    const pairs = byName.get(bare) ?? [];
    byName.set(bare, pairs);
    pairs.push([node, other]);
  }
  return [...byName.values()].flatMap((pairs) => {
    const chains = new Set(pairs.map(([node]) => above(a, node, shared).join('/')));
    // Those of one name may be counted in another order; where all hang on the same, that is no matter.
    return (chains.size < 2 ? pairs : pairByPlace(a, b, pairs)).flatMap(([node, other]): Difference[] => {
      const [before, after] = [above(a, node, shared), above(b, other, shared)];
      if (before.join('/') === after.join('/')) return [];
      const words = (chain: string[]) => chain[0] ?? 'nothing';
      const title = a.nodes[node].name;
      const where = { part: title, measured: after.join('/'), allowed: before.join('/') };
      return [difference('part.moved', `${title} hangs on ${words(after)}, not on ${words(before)}`, where)];
    });
  });
}

/** Names of the nodes above one, the nearest first, of those that both know, each once; its own does not count. */
function above({ nodes }: SceneDocument, node: number, shared: ReadonlySet<string>): string[] {
  const own = plainName(nodes[node].name);
  const out: string[] = [];
  for (let i = nodes[node].parent; i >= 0; i = nodes[i].parent) {
    const name = plainName(nodes[i].name);
    if (shared.has(name) && name !== own && name !== out.at(-1)) out.push(name);
  }
  return out;
}
