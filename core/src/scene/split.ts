import type { SceneDocument, SceneNode } from './document.ts';
import { subMesh } from './submesh.ts';
import { withUsedMeshes } from './take.ts';

/** One of the files that a document is split into. */
export interface Piece {
  /** The group, node or material that it holds. */
  name: string;
  document: SceneDocument;
}

/**
 * Splits a document by group, node or material. Groups are the uppermost nodes below whatever holds
 * everything. Each piece keeps the nodes above its parts, so that everything stays where it is, and the
 * materials in use. What is on no part (cameras, lights) goes into no piece.
 */
export function splitDocument(
  document: SceneDocument,
  split: 'one' | 'groups' | 'nodes' | 'materials',
): Piece[] {
  if (split === 'one') return [{ name: '', document }];
  if (split === 'materials') return byMaterial(document);
  const { nodes } = document;
  const owners =
    split === 'nodes'
      ? nodes.map((node, i) => (node.mesh >= 0 ? i : -1))
      : groupsOf(
          nodes.map(({ parent }) => parent),
          nodes.map(({ mesh }) => mesh >= 0),
        );
  const pieces = new Map<number, Set<number>>();
  nodes.forEach((node, i) => {
    const owner = owners[i];
    if (node.mesh < 0 || owner < 0) return;
    pieces.set(owner, (pieces.get(owner) ?? new Set()).add(i));
  });
  return [...pieces].map(([owner, keptFaces]) => ({
    name: nodes[owner].name,
    document: keepParts(document, keptFaces),
  }));
}

/**
 * For each node the uppermost node that it belongs to, below the one node that holds everything. `parents`
 * come before their children; `isPart` tells which nodes carry geometry.
 */
export function groupsOf(parents: readonly number[], isPart: readonly boolean[]): number[] {
  const full = [...isPart];
  for (let i = parents.length - 1; i >= 0; i -= 1) if (full[i] && parents[i] >= 0) full[parents[i]] = true;
  const holds = new Set<number>();
  for (;;) {
    const tops = parents.flatMap((parent, i) =>
      (parent < 0 || holds.has(parent)) && !holds.has(i) && full[i] ? [i] : [],
    );
    if (tops.length !== 1 || isPart[tops[0]]) break;
    holds.add(tops[0]);
  }
  const groups: number[] = [];
  parents.forEach((parent, i) => {
    groups.push(parent < 0 || holds.has(parent) ? i : groups[parent]);
  });
  return groups;
}

function byMaterial(document: SceneDocument): Piece[] {
  const used = new Set(
    document.nodes.flatMap((node) =>
      node.mesh < 0 ? [] : slotsOf(document, node).map((slot) => node.materials[slot] ?? -1),
    ),
  );
  return [...used]
    .sort((a, b) => a - b)
    .map((material) => {
      const meshes = [...document.meshes];
      const keptFaces = new Set<number>();
      const nodes = document.nodes.map((node, i): SceneNode => {
        if (node.mesh < 0) return node;
        const mesh = document.meshes[node.mesh];
        const ownSlots = slotsOf(document, node);
        const required = ownSlots.filter((slot) => (node.materials[slot] ?? -1) === material);
        if (required.length === 0) return { ...node, kind: 'group', mesh: -1, materials: [] };
        keptFaces.add(i);
        const materials = material < 0 ? [] : [material];
        if (!mesh.faceMaterial) return { ...node, materials };
        const keep = Uint8Array.from(mesh.faceMaterial, (slot) => (required.includes(slot) ? 1 : 0));
        const cut = required.length === ownSlots.length ? mesh : subMesh(mesh, keep, mesh.name);
        return { ...node, materials, mesh: meshes.push({ ...cut, faceMaterial: null }) - 1 };
      });
      return {
        name: document.materials[material]?.name ?? 'none',
        document: keepParts({ ...document, nodes, meshes }, keptFaces),
      };
    });
}

function slotsOf({ meshes }: SceneDocument, { mesh }: SceneNode): number[] {
  return [...new Set(meshes[mesh].faceMaterial ?? [0])];
}

/** The document with these parts alone, the nodes above them, and the joints that move them. */
function keepParts(document: SceneDocument, parts: ReadonlySet<number>): SceneDocument {
  const keptFaces = new Set<number>();
  const keep = (from: number) => {
    for (let index = from; index >= 0 && !keptFaces.has(index); index = document.nodes[index].parent)
      keptFaces.add(index);
  };
  const skins = new Set([...parts].map((part) => document.nodes[part].skin).filter((skin) => skin >= 0));
  for (const part of parts) keep(part);
  for (const skin of skins) document.skins[skin].joints.forEach(keep);
  const numbers = new Map([...keptFaces].sort((a, b) => a - b).map((old, i) => [old, i]));
  const skinNumbers = new Map([...skins].map((old, i) => [old, i]));
  const nodes = [...numbers.keys()].map((old): SceneNode => {
    const node = document.nodes[old];
    const bare = parts.has(old)
      ? node
      : {
          ...node,
          kind: node.mesh >= 0 ? ('group' as const) : node.kind,
          mesh: -1,
          materials: [],
          skin: -1,
          camera: -1,
          light: -1,
        };
    return { ...bare, parent: numbers.get(node.parent) ?? -1, skin: skinNumbers.get(bare.skin) ?? -1 };
  });
  const used = new Map<number, number>();
  for (const { materials, mesh } of nodes)
    for (const material of mesh < 0 ? [] : materials)
      if (material >= 0 && !used.has(material)) used.set(material, used.size);
  const materials = [...used.keys()].map((old) => document.materials[old]);
  const images = new Set(
    materials.flatMap(({ channels }) =>
      Object.values(channels).flatMap(({ map }) => (map ? [map.image] : [])),
    ),
  );
  return {
    ...document,
    ...withUsedMeshes(
      nodes.map((node) => ({
        ...node,
        materials: node.materials.map((material) => used.get(material) ?? -1),
      })),
      document.meshes,
    ),
    materials,
    images: document.images.filter(({ key }) => images.has(key)),
    cameras: [],
    lights: [],
    skins: [...skinNumbers.keys()].map((old) => ({
      ...document.skins[old],
      joints: document.skins[old].joints.map((joint) => numbers.get(joint) as number),
    })),
    clips: document.clips
      .map((clip) => ({
        ...clip,
        tracks: clip.tracks
          .filter(({ node }) => numbers.has(node))
          .map((track) => ({ ...track, node: numbers.get(track.node) as number })),
      }))
      .filter(({ tracks }) => tracks.length > 0),
  };
}
