import { identityTransform, type SceneDocument, type SceneNode } from './document.ts';

/**
 * The document without anything on these joints, for formats or readers to which a joint is nothing else. What
 * one carried (the bone that is a mesh, the camera on a boom) is a node of the same name below it, in the same
 * place.
 */
export function partsOffJoints(document: SceneDocument, isJoint: ReadonlySet<number>): SceneDocument {
  const carriers = [...isJoint].filter((joint) => carries(document.nodes[joint]));
  if (carriers.length === 0) return document;
  const nodes = [...document.nodes];
  const moved = new Map<number, number>();
  for (const joint of carriers) {
    const { transform, ...node } = document.nodes[joint];
    const { geometricTranslation, geometricRotation, geometricScale } = transform;
    moved.set(joint, nodes.length);
    nodes.push({
      ...node,
      kind: kindOf(node),
      parent: joint,
      transform: { ...identityTransform(), geometricTranslation, geometricRotation, geometricScale },
      custom: {},
    });
    nodes[joint] = {
      ...node,
      kind: 'bone',
      mesh: -1,
      skin: -1,
      camera: -1,
      light: -1,
      materials: [],
      transform,
    };
  }
  const clips = document.clips.map((clip) => ({
    ...clip,
    tracks: clip.tracks.map((track) =>
      track.path === 'weights' || track.path === 'visible'
        ? { ...track, node: moved.get(track.node) ?? track.node }
        : track,
    ),
  }));
  return { ...document, nodes, clips };
}

function carries({ mesh, camera, light }: SceneNode): boolean {
  return mesh >= 0 || camera >= 0 || light >= 0;
}

function kindOf({ mesh, camera }: Pick<SceneNode, 'mesh' | 'camera'>): SceneNode['kind'] {
  if (mesh >= 0) return 'mesh';
  return camera >= 0 ? 'camera' : 'light';
}
