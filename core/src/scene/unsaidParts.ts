import type { SceneDocument, SceneNode } from './document.ts';
import type { Loss } from './loss.ts';

/** Names that a line tells; of more there is the number. */
const MOST_NAMES = 4;

/** Parts that the file hides, by themselves or by what they hang on. */
export function hiddenParts({ nodes, meshes }: Pick<SceneDocument, 'nodes' | 'meshes'>): SceneNode[] {
  const isShown = (index: number): boolean => {
    for (let at = index; at >= 0; at = nodes[at].parent) if (!nodes[at].visible) return false;
    return true;
  };
  return nodes.filter(({ mesh }, i) => mesh >= 0 && meshes[mesh].faceCounts.length > 0 && !isShown(i));
}

/**
 * What formats other than USD say nothing of: parts that are hidden (which FBX can say), and cages of smooth
 * surfaces.
 */
export function partsUnsaid(document: SceneDocument, format: string, saysHidden = false): Loss[] {
  const { nodes, meshes } = document;
  const cages = nodes.filter(
    ({ mesh }) => mesh >= 0 && meshes[mesh].subdivision !== 'none' && !meshes[mesh].normals,
  );
  return [
    ...(saysHidden ? [] : lossOf('parts.hidden', hiddenParts(document), format)),
    ...lossOf('parts.cages', cages, format),
  ];
}

function lossOf(code: 'parts.hidden' | 'parts.cages', parts: readonly SceneNode[], format: string): Loss[] {
  if (parts.length === 0) return [];
  const names = parts.slice(0, MOST_NAMES).map(({ name }) => name);
  const more = parts.length - names.length;
  return [
    {
      code,
      part: `${names.join(', ')}${more > 0 ? ` and ${more} more` : ''}`,
      count: parts.length,
      detail: format,
    },
  ];
}
