import { createNode, type Influences, type SceneDocument, type SceneNode } from './document.ts';
import type { Loss } from './loss.ts';
import { identity, invertAffine, type Matrix4, multiply, partsOfMatrix, worldMatrices } from './matrix.ts';

/**
 * The document whose skinned points all follow a joint, for formats where the weights of a point add up to
 * one: those that nothing moves stay with their part, by a joint that hangs still on it.
 */
export function withStillJoints(document: SceneDocument): { document: SceneDocument; losses: Loss[] } {
  const losses: Loss[] = [];
  const worlds = worldMatrices(document.nodes);
  const [nodes, meshes, skins] = [[...document.nodes], [...document.meshes], [...document.skins]];
  document.nodes.forEach((node, i) => {
    const { influences } = document.meshes[node.mesh] ?? {};
    const skin = document.skins[node.skin];
    if (!influences || !skin) return;
    const loose = loosePoints(influences);
    if (loose.length === 0) return;
    const still = nodes.push(stillNode(document, worlds, i)) - 1;
    const joint = skin.joints.length;
    nodes[i] = {
      ...node,
      skin:
        skins.push({
          ...skin,
          joints: [...skin.joints, still],
          inverseBind: Float64Array.of(...skin.inverseBind, ...identity()),
        }) - 1,
      mesh: meshes.push({ ...meshes[node.mesh], influences: boundTo(joint, influences, loose) }) - 1,
    };
    losses.push({ code: 'skin.loose', part: node.name, count: loose.length });
  });
  return losses.length === 0
    ? { document, losses }
    : { document: { ...document, nodes, meshes, skins }, losses };
}

/**
 * A joint where a skinned node is. Beside the other joints, which want one root, unless something there moves:
 * then on the node itself.
 */
function stillNode(
  { nodes, skins, clips }: SceneDocument,
  worlds: readonly Matrix4[],
  part: number,
): SceneNode {
  const { name, skin } = nodes[part];
  const { parent } = nodes[skins[skin].joints[0]];
  const moving = new Set(clips.flatMap(({ tracks }) => tracks.map(({ node }) => node)));
  const isMoving = (start: number) => {
    for (let node = start; node >= 0; node = nodes[node].parent) if (moving.has(node)) return true;
    return false;
  };
  if (isMoving(part) || isMoving(parent)) return createNode(`${name}_still`, 'bone', part);
  const above = parent < 0 ? identity() : worlds[parent];
  const transform = partsOfMatrix(multiply(invertAffine(above), worlds[part]));
  return createNode(`${name}_still`, 'bone', parent, { transform });
}

/** Points without a weight above 0. */
function loosePoints({ starts, weights }: Influences): number[] {
  const out: number[] = [];
  for (let point = 0; point + 1 < starts.length; point += 1) {
    let sum = 0;
    for (let i = starts[point]; i < starts[point + 1]; i += 1) sum += weights[i];
    if (!(sum > 0)) out.push(point);
  }
  return out;
}

function boundTo(
  joint: number,
  { starts, joints, weights }: Influences,
  points: readonly number[],
): Influences {
  const isLoose = new Uint8Array(starts.length);
  for (const point of points) isLoose[point] = 1;
  const out = { starts: new Uint32Array(starts.length), joints: [] as number[], weights: [] as number[] };
  for (let point = 0; point + 1 < starts.length; point += 1) {
    if (isLoose[point]) {
      out.joints.push(joint);
      out.weights.push(1);
    } else
      for (let i = starts[point]; i < starts[point + 1]; i += 1) {
        out.joints.push(joints[i]);
        out.weights.push(weights[i]);
      }
    out.starts[point + 1] = out.joints.length;
  }
  return {
    starts: out.starts,
    joints: Uint32Array.from(out.joints),
    weights: Float32Array.from(out.weights),
  };
}
