import type { SceneDocument, SceneNode } from '../scene/document.ts';
import { plainName } from './worldParts.ts';

/**
 * Nodes by their plain names, of names that one node alone has. What is named like the node it hangs on counts
 * with it: formats that part a mesh from what else its node holds name both alike.
 */
export function loneNodes(
  { nodes }: SceneDocument,
  counts: (node: SceneNode) => boolean = () => true,
): Map<string, number> {
  const byName = new Map<string, number[]>();
  nodes.forEach((node, i) => {
    const name = plainName(node.name);
    if (!counts(node) || (node.parent >= 0 && plainName(nodes[node.parent].name) === name)) return;
    byName.set(name, [...(byName.get(name) ?? []), i]);
  });
  return new Map(
    [...byName].flatMap(([name, list]) => (list.length === 1 ? [[name, list[0]] as const] : [])),
  );
}
