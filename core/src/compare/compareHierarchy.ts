import type { SceneDocument } from '../scene/document.ts';
import { type Difference, difference } from './difference.ts';
import { placedParts, plainName } from './worldParts.ts';

/**
 * Compares what each part hangs on. Nodes that only one side has (roots and wrappers that formats need) do
 * not count; what both know must stand above the same parts.
 */
export function compareHierarchy(a: SceneDocument, b: SceneDocument): Difference[] {
  const parts = new Map(placedParts(b).map(({ name, node }) => [name, node]));
  const existing = sharedNames(a, b);
  return placedParts(a).flatMap(({ name, node }): Difference[] => {
    const other = parts.get(name);
    if (other === undefined) return [];
    const [first, second] = [above(a, node, existing), above(b, other, existing)];
    if (first.join('/') === second.join('/')) return [];
    const words = (chain: string[]) => chain[0] ?? 'nothing';
    const title = a.nodes[node].name;
    const where = { part: title, measured: second.join('/'), allowed: first.join('/') };
    return [difference('part.moved', `${title} hangs on ${words(second)}, not on ${words(first)}`, where)];
  });
}

/** Names that stand for one node on either side. */
function sharedNames(a: SceneDocument, b: SceneDocument): ReadonlySet<string> {
  const [first, second] = [a, b].map(({ nodes }) => {
    const counts = new Map<string, number>();
    for (const { name } of nodes) counts.set(plainName(name), (counts.get(plainName(name)) ?? 0) + 1);
    return counts;
  });
  return new Set(
    [...first].filter(([name, count]) => count === 1 && second.get(name) === 1).map(([name]) => name),
  );
}

/** Names of the nodes above one, the nearest first, of those that both know. */
function above({ nodes }: SceneDocument, node: number, existing: ReadonlySet<string>): string[] {
  const out: string[] = [];
  for (let i = nodes[node].parent; i >= 0; i = nodes[i].parent) {
    const name = plainName(nodes[i].name);
    if (existing.has(name)) out.push(name);
  }
  return out;
}
