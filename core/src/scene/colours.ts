import type { PolygonMesh, SceneDocument } from './document.ts';
import type { Loss } from './loss.ts';

/** Whether colours of a mesh's points say more than white. */
export function saysColours({ colours: [first] }: Pick<PolygonMesh, 'colours'>): boolean {
  if (!first) return false;
  for (const value of first.values) if (value !== 1) return true;
  return false;
}

/** Which materials are on parts whose colours say more than white, by their places in the document. */
export function materialsUnderColours({
  nodes,
  meshes,
}: Pick<SceneDocument, 'nodes' | 'meshes'>): Set<number> {
  const says = meshes.map(saysColours);
  return new Set(nodes.flatMap(({ mesh, materials }) => (mesh >= 0 && says[mesh] ? materials : [])));
}

/** Of formats without a word for it: materials that show colours of points, or do not, otherwise than is usual. */
export function coloursUnsaid(document: SceneDocument, detail: string): Loss[] {
  return [...materialsUnderColours(document)].flatMap((index): Loss[] => {
    const material = document.materials[index];
    return material?.colours ? [{ code: 'colours.unsaid', material: material.key, detail }] : [];
  });
}
