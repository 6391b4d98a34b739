import type { SceneDocument, SceneNode } from './document.ts';

/**
 * Where a named UV set stands on the first mesh that has it, of the parts that are asked about; -1 where none has it.
 * Sets of one name stand at one place on all meshes whose images ask for it.
 */
export function setPlace(
  { nodes, meshes }: Pick<SceneDocument, 'nodes' | 'meshes'>,
  set: string,
  isAsked: (node: SceneNode) => boolean,
): number {
  for (const node of nodes) {
    if (node.mesh < 0 || !isAsked(node)) continue;
    const place = meshes[node.mesh].uvSets.findIndex(({ name }) => name === set);
    if (place >= 0) return place;
  }
  return -1;
}
