import type { SceneDocument, SceneNode } from './document.ts';

/** Parts that the file hides, by themselves or by what they hang on. */
export function hiddenParts({ nodes, meshes }: Pick<SceneDocument, 'nodes' | 'meshes'>): SceneNode[] {
  const isShown = (index: number): boolean => index < 0 || (nodes[index].visible && isShown(nodes[index].parent));
  return nodes.filter(({ mesh }, i) => mesh >= 0 && meshes[mesh].faceCounts.length > 0 && !isShown(i));
}
