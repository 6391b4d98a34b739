import type { PolygonMesh, SceneDocument, SceneNode } from './document.ts';

/** What may be taken from a model, or left. */
export const TAKE_PARTS = ['meshes', 'materials', 'cameras', 'lights', 'clips', 'skins', 'shapes'] as const;
/** One of {@link TAKE_PARTS}. */
export type TakePart = (typeof TAKE_PARTS)[number];

/**
 * The document with only the parts wanted. Nodes that are left with nothing on them and nothing under them go
 * too; without skins the bones stay only where a part hangs on them. The document itself is not changed.
 */
export function takeOnly(document: SceneDocument, parts: ReadonlySet<TakePart>): SceneDocument {
  if (TAKE_PARTS.every((part) => parts.has(part))) return document;
  const has = (part: TakePart) => parts.has(part);
  const stripped = document.nodes.map((node): SceneNode => {
    const mesh = has('meshes') ? node.mesh : -1;
    const camera = has('cameras') ? node.camera : -1;
    const light = has('lights') ? node.light : -1;
    const kind = kindOf(mesh, camera, light, node);
    return {
      ...node,
      mesh,
      camera,
      light,
      kind,
      skin: has('skins') && mesh >= 0 ? node.skin : -1,
      materials: mesh >= 0 && has('materials') ? node.materials : [],
    };
  });
  const joints = new Set(has('skins') && has('meshes') ? document.skins.flatMap((skin) => skin.joints) : []);
  const keptNodes = new Set<number>();
  stripped.forEach((node, i) => {
    const original = document.nodes[i];
    const lost =
      (original.mesh >= 0 && node.mesh < 0) ||
      (original.camera >= 0 && node.camera < 0) ||
      (original.light >= 0 && node.light < 0);
    const empty = node.mesh < 0 && node.camera < 0 && node.light < 0;
    const bone = node.kind === 'bone' && !has('skins');
    if (!joints.has(i) && empty && (lost || bone)) return;
    for (let index = i; index >= 0 && !keptNodes.has(index); index = stripped[index].parent)
      keptNodes.add(index);
  });
  const numbers = new Map([...keptNodes].sort((a, b) => a - b).map((old, i) => [old, i]));
  const nodes = [...numbers.keys()].map((old) => ({
    ...stripped[old],
    parent: numbers.get(stripped[old].parent) ?? -1,
  }));
  const clips = has('clips')
    ? document.clips.map((clip) => ({
        ...clip,
        tracks: clip.tracks
          .filter((track) => numbers.has(track.node) && (track.path !== 'weights' || has('shapes')))
          .map((track) => ({ ...track, node: numbers.get(track.node) as number })),
      }))
    : [];
  return {
    ...document,
    nodes,
    meshes: has('meshes') ? document.meshes.map((mesh) => stripMesh(mesh, has('skins'), has('shapes'))) : [],
    materials: has('materials') ? document.materials : [],
    images: has('materials') ? document.images : [],
    cameras: has('cameras') ? document.cameras : [],
    lights: has('lights') ? document.lights : [],
    skins:
      has('skins') && has('meshes')
        ? document.skins.map((skin) => ({
            ...skin,
            joints: skin.joints.map((joint) => numbers.get(joint) ?? 0),
          }))
        : [],
    clips,
  };
}

function kindOf(mesh: number, camera: number, light: number, node: SceneNode) {
  if (mesh >= 0) return 'mesh';
  if (camera >= 0) return 'camera';
  if (light >= 0) return 'light';
  return node.kind === 'bone' ? 'bone' : 'group';
}

function stripMesh(mesh: PolygonMesh, skins: boolean, shapes: boolean): PolygonMesh {
  return { ...mesh, influences: skins ? mesh.influences : null, shapes: shapes ? mesh.shapes : [] };
}

/** Meshes that no node uses any more are let go. */
export function withUsedMeshes(
  nodes: readonly SceneNode[],
  meshes: readonly PolygonMesh[],
): Pick<SceneDocument, 'nodes' | 'meshes'> {
  const numbers = new Map<number, number>();
  for (const { mesh } of nodes) if (mesh >= 0 && !numbers.has(mesh)) numbers.set(mesh, numbers.size);
  return {
    nodes: nodes.map((node) => (node.mesh < 0 ? node : { ...node, mesh: numbers.get(node.mesh) as number })),
    meshes: [...numbers.keys()].map((old) => meshes[old]),
  };
}
