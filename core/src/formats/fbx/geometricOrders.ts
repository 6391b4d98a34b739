import type { SceneDocument, TransformParts } from '../../scene/document.ts';
import { eulerOf, rotation } from '../../scene/matrix.ts';
import { toQuaternions } from '../../scene/tracks.ts';

/**
 * The document with turns in the order XYZ where a node's shape is turned apart from itself: that turn is about X
 * first whatever the node's own order is, and readers take it for the node's.
 */
export function withPlainGeometricOrders(document: SceneDocument): SceneDocument {
  const { nodes } = document;
  if (!nodes.some(({ transform }) => isAmbiguous(transform))) return document;
  return {
    ...document,
    nodes: nodes.map((node) =>
      isAmbiguous(node.transform)
        ? { ...node, transform: { ...node.transform, ...inPlainOrder(node.transform) } }
        : node,
    ),
    clips: document.clips.map((clip) => ({
      ...clip,
      tracks: clip.tracks.map((track) =>
        track.path === 'rotation' && isAmbiguous(nodes[track.node].transform)
          ? toQuaternions(track, nodes[track.node])
          : track,
      ),
    })),
  };
}

function isAmbiguous({ rotationOrder, geometricRotation }: TransformParts): boolean {
  return rotationOrder !== 'XYZ' && geometricRotation.filter((angle) => angle !== 0).length > 1;
}

function inPlainOrder(t: TransformParts): Pick<TransformParts, 'rotation' | 'rotationOrder'> {
  return { rotation: eulerOf(rotation(t.rotation, t.rotationOrder)), rotationOrder: 'XYZ' };
}
