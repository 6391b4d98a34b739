import { identityTransform, type PolygonMesh, type SceneDocument, type SceneNode } from './document.ts';
import type { Loss } from './loss.ts';
import { solidsOf } from './solids.ts';
import { createCutter } from './submesh.ts';
import { withUsedMeshes } from './take.ts';

/** One piece of a part: the faces that stay together. */
interface Piece {
  name: string;
  mesh: PolygonMesh;
  materials: number[];
}

/**
 * Cuts every part, or only some, into pieces: by material, or into its solids. A part of one piece stays as it is; any other becomes
 * a group that holds its pieces, so that transforms, names and what hangs on it keep their places. Nodes keep their
 * numbers; pieces join at the end. Weights of shapes cannot drive several pieces and are left off, which is told.
 */
export function cutParts(
  document: SceneDocument,
  by: 'materials' | 'solids',
  only: ReadonlySet<number> | null = null,
): { document: SceneDocument; losses: Loss[] } {
  const meshes = [...document.meshes];
  const pieces = new Map<number, (Piece & { at: number })[]>();
  const cut = (node: SceneNode): (Piece & { at: number })[] => {
    const made = (by === 'materials' ? byMaterial : bySolid)(document.meshes[node.mesh], node, document);
    return made.map((piece) => {
      meshes.push(piece.mesh);
      return { ...piece, at: meshes.length - 1 };
    });
  };
  const nodes = [...document.nodes];
  const losses: Loss[] = [];
  document.nodes.forEach((node, i) => {
    if (node.mesh < 0 || (only && !only.has(i))) return;
    const own = cut(node);
    if (own.length < 2) return;
    pieces.set(i, own);
    const { geometricTranslation, geometricRotation, geometricScale } = node.transform;
    nodes[i] = { ...node, kind: 'group', mesh: -1, materials: [], skin: -1 };
    for (const { name, at: index, materials } of own) {
      nodes.push({
        ...node,
        name,
        parent: i,
        mesh: index,
        materials,
        transform: { ...identityTransform(), geometricTranslation, geometricRotation, geometricScale },
        custom: {},
      });
    }
    if (document.clips.some((clip) => clip.tracks.some((track) => track.node === i && track.path === 'weights')))
      losses.push({ code: 'shape.clips', part: node.name, count: own.length });
  });
  const clips = document.clips.map((clip) => ({ ...clip, tracks: clip.tracks.filter((track) => track.path !== 'weights' || !pieces.has(track.node)) }));
  return { document: { ...document, ...withUsedMeshes(nodes, meshes), clips }, losses };
}

function byMaterial(mesh: PolygonMesh, node: SceneNode, { materials }: SceneDocument): Piece[] {
  const bySlot = facesBy(mesh.faceMaterial ?? new Int32Array(mesh.faceCounts.length));
  if (bySlot.size < 2) return [];
  const cut = createCutter(mesh);
  return [...bySlot]
    .sort(([a], [b]) => a - b)
    .map(([slot, faces]) => {
      const material = node.materials[slot] ?? -1;
      const name = `${node.name}_${materials[material]?.name ?? 'none'}`;
      return { name, mesh: { ...cut(faces, name), faceMaterial: null }, materials: material < 0 ? [] : [material] };
    });
}

function bySolid(mesh: PolygonMesh, node: SceneNode): Piece[] {
  const { solid, count } = solidsOf(mesh);
  if (count < 2) return [];
  const cut = createCutter(mesh);
  return [...facesBy(solid)].map(([number, faces]) => {
    const name = `${node.name}_${number + 1}`;
    return { name, mesh: cut(faces, name), materials: node.materials };
  });
}

/** Faces by the number that each has. */
function facesBy(numbers: ArrayLike<number>): Map<number, number[]> {
  const groups = new Map<number, number[]>();
  for (let face = 0; face < numbers.length; face += 1) {
    const group = groups.get(numbers[face]);
    if (group) group.push(face);
    else groups.set(numbers[face], [face]);
  }
  return groups;
}
