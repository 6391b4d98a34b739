import type { SceneDocument, SceneNode } from './document.ts';
import type { Loss } from './loss.ts';

/** Names that a line tells; of more there is the number. */
const MOST_NAMES = 4;

/** Parts that the file hides, by themselves or by what they hang on. */
export function hiddenParts({ nodes, meshes }: Pick<SceneDocument, 'nodes' | 'meshes'>): SceneNode[] {
  return nodes.filter(({ mesh }, i) => mesh >= 0 && meshes[mesh].faceCounts.length > 0 && !isShown(nodes, i));
}

/** Whether neither a node nor anything that it hangs on is hidden by the file. */
export function isShown(nodes: readonly SceneNode[], index: number): boolean {
  for (let node = index; node >= 0; node = nodes[node].parent) if (!nodes[node].visible) return false;
  return true;
}

/**
 * What formats other than USD say nothing of: parts that are hidden (which FBX can say), cages of smooth
 * surfaces, and sides of parts. `showsHidden` is who shows what is hidden, where that is not every reader of the format.
 */
export function partsUnsaid(
  document: SceneDocument,
  format: string,
  { showsHidden = format }: { showsHidden?: string | null } = {},
): Loss[] {
  const { nodes, meshes } = document;
  const cages = nodes.filter(
    ({ mesh }) => mesh >= 0 && meshes[mesh].subdivision !== 'none' && !meshes[mesh].normals,
  );
  return [
    ...(showsHidden === null ? [] : lossOf('parts.hidden', hiddenParts(document), showsHidden)),
    ...lossOf('parts.cages', cages, format),
    ...lossOf(
      'parts.oneSided',
      nodes.filter(({ oneSided }) => oneSided),
      format,
    ),
  ];
}

function lossOf(
  code: 'parts.hidden' | 'parts.cages' | 'parts.oneSided',
  parts: readonly SceneNode[],
  format: string,
): Loss[] {
  if (parts.length === 0) return [];
  const names = parts.slice(0, MOST_NAMES).map(({ name }) => name);
  const more = parts.length - names.length;
  return [
    {
      code,
      part: `${names.join(', ')}${more > 0 ? ` and ${more} more` : ''}`,
      parts: parts.map(({ name }) => name),
      count: parts.length,
      detail: format,
    },
  ];
}
