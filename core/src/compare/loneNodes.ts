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
  const names = nodes.map(({ name }) => plainName(name));
  const lone = new Map<string, number>();
  const several = new Set<string>();
  nodes.forEach((node, i) => {
    const name = names[i];
    if (!counts(node) || (node.parent >= 0 && names[node.parent] === name)) return;
    if (lone.has(name)) several.add(name);
    lone.set(name, i);
  });
  for (const name of several) lone.delete(name);
  return lone;
}
