import { identityTransform, type PolygonMesh, type SceneDocument, type SceneNode } from './document.ts';
import type { Loss } from './loss.ts';
import type { CutBy } from './partChange.ts';
import { facesOfPieces, piecesOf } from './pieces.ts';
import { createCutter } from './submesh.ts';
import { withUsedMeshes } from './take.ts';

/** One piece of a part: the faces that stay together. */
interface Piece {
  name: string;
  /** What it goes by, below its part: the material's key or the number of the solid. */
  key: string;
  mesh: PolygonMesh;
  materials: number[];
}

/**
 * What a piece goes by: after its part, by the number of the solid from 1 on, or by the key of its material.
 */
export function pieceName(part: string, piece: number | string | undefined): string {
  return `${part}_${typeof piece === 'number' ? piece + 1 : (piece ?? 'none')}`;
}

/**
 * Cuts every part, or only some in their order, into pieces: by material, or into its solids. A part of one
 * piece stays as it is; any other becomes a group that holds its pieces, so that transforms, names and what
 * hangs on it keep their places. Nodes keep their numbers; pieces join at the end, each told with its part.
 * Weights of shapes cannot drive several pieces and are left off, which is told.
 */
export function cutParts(
  document: SceneDocument,
  by: CutBy,
  only: ReadonlySet<number> | null = null,
): { document: SceneDocument; losses: Loss[]; made: { part: number; key: string }[] } {
  const meshes = [...document.meshes];
  const cut = new Set<number>();
  const made: { part: number; key: string }[] = [];
  const nodes = [...document.nodes];
  const losses: Loss[] = [];
  for (const i of only ?? document.nodes.keys()) {
    const node = document.nodes[i];
    const ownPieces = node.mesh < 0 ? [] : piecesOfPart(node, document, by);
    if (ownPieces.length < 2) continue;
    cut.add(i);
    const { geometricTranslation, geometricRotation, geometricScale } = node.transform;
    nodes[i] = { ...node, kind: 'group', mesh: -1, materials: [], skin: -1 };
    for (const { name, key, mesh, materials } of ownPieces) {
      meshes.push(mesh);
      made.push({ part: i, key });
      nodes.push({
        ...node,
        name,
        parent: i,
        mesh: meshes.length - 1,
        materials,
        ...(by === 'materials' ? { slotKeys: undefined } : {}),
        transform: { ...identityTransform(), geometricTranslation, geometricRotation, geometricScale },
        custom: {},
      });
    }
    if (
      document.clips.some((clip) => clip.tracks.some((track) => track.node === i && track.path === 'weights'))
    )
      losses.push({ code: 'shape.clips', part: node.name, count: ownPieces.length });
  }
  const clips = document.clips.map((clip) => ({
    ...clip,
    tracks: clip.tracks.filter((track) => track.path !== 'weights' || !cut.has(track.node)),
  }));
  return { document: { ...document, ...withUsedMeshes(nodes, meshes), clips }, losses, made };
}

function piecesOfPart(node: SceneNode, { meshes, materials }: SceneDocument, by: CutBy): Piece[] {
  const mesh = meshes[node.mesh];
  const pieces = piecesOf(mesh, by);
  if (pieces.count < 2) return [];
  const cut = createCutter(mesh);
  return facesOfPieces(pieces).map((faces, i): Piece => {
    if (by === 'solids') {
      const name = pieceName(node.name, i);
      return { name, key: pieceName('', i), mesh: cut(faces, name), materials: node.materials };
    }
    const slot = pieces.slots[i];
    const material = node.materials[slot] ?? -1;
    const slotKey = node.slotKeys?.[slot] || undefined;
    const name = pieceName(node.name, materials[material]?.name);
    return {
      name,
      key: pieceName('', node.slotKeys ? slotKey : materials[material]?.key),
      mesh: { ...cut(faces, name), faceMaterial: null },
      materials: material < 0 ? [] : [material],
    };
  });
}
