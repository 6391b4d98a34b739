import type { Clip, PolygonMesh, SceneDocument, SceneNode, Vec3 } from '../scene/document.ts';
import {
  geometricMatrix,
  type Matrix4,
  multiply,
  rotation,
  toYUpMetres,
  transformPoint,
  translation,
  worldMatrices,
} from '../scene/matrix.ts';
import { movedTransform } from '../scene/rebase.ts';
import { evaluateTrack } from '../scene/tracks.ts';

/** World matrix per node into Y-up metres, and weights of morph targets that are not as the file stands. */
export interface Pose {
  worlds: readonly Matrix4[];
  /** By node. */
  weights: ReadonlyMap<number, readonly number[]>;
  /** Skins do nothing: points stand where their part is placed. */
  rigid?: boolean;
}

/** The pose of a clip at a time in seconds. */
export function poseOf(document: SceneDocument, clip: Clip, time: number): Pose {
  const nodes = document.nodes.map((node) => ({ parent: node.parent, transform: node.transform }));
  const weights = new Map<number, readonly number[]>();
  for (const track of clip.tracks) {
    const node = nodes[track.node];
    if (!node) continue;
    const value = evaluateTrack(track, time);
    if (track.path === 'weights') weights.set(track.node, value);
    else node.transform = movedTransform(node.transform, track.path, value);
  }
  return { worlds: intoMetres(document, worldMatrices(nodes)), weights };
}

function intoMetres({ axes, metresPerUnit }: SceneDocument, worlds: readonly Matrix4[]): Matrix4[] {
  const into = toYUpMetres(axes, metresPerUnit);
  return worlds.map((world) => multiply(into, world));
}

/** Half a radian and a bit: enough to tell one joint from another, and no symmetry. */
const BEND = 27;

/**
 * A pose with joints turned about themselves in the world, each about an axis of its own that its name gives.
 */
export function bentPose({ worlds }: Pose, names: ReadonlyMap<number, string>): Pose {
  const bent = worlds.map((world, i) => {
    const name = names.get(i);
    if (name === undefined) return world;
    const place: Vec3 = [world[12], world[13], world[14]];
    return multiply(
      multiply(translation(place), rotation(bendOf(name))),
      multiply(translation(place.map((value) => -value) as Vec3), world),
    );
  });
  return { worlds: bent, weights: new Map() };
}

/** Angles in degrees that come from a name alone. */
function bendOf(name: string): Vec3 {
  let hash = 7;
  for (const letter of name) hash = (hash * 31 + (letter.codePointAt(0) ?? 0)) % 9973;
  return [(hash % 7) - 3, (hash % 11) - 5, (hash % 13) - 6].map((share) => (share * BEND) / 6) as Vec3;
}

/** x, y, z in metres of some points of a node's mesh in a pose, moved by its skin and its morph targets. */
export function posedPoints(
  document: SceneDocument,
  index: number,
  pose: Pose,
  points: readonly number[],
): Float64Array {
  const node = document.nodes[index];
  const mesh = document.meshes[node.mesh];
  const place = multiply(pose.worlds[index], geometricMatrix(node.transform));
  const local = morphedPoints(mesh, points, pose.weights.get(index));
  const skin = document.skins[node.skin];
  const out = new Float64Array(points.length * 3);
  const bones =
    skin && mesh.influences && !pose.rigid
      ? skin.joints.map((joint, j) =>
          multiply(pose.worlds[joint], skin.inverseBind.subarray(j * 16, j * 16 + 16) as unknown as Matrix4),
        )
      : null;
  points.forEach((point, i) => {
    const [x, y, z] = local.subarray(i * 3, i * 3 + 3);
    out.set(
      bones && mesh.influences
        ? skinned(
            { influences: mesh.influences, bones, world: pose.worlds[index] },
            point,
            geometric(node, x, y, z),
          )
        : transformPoint(place, x, y, z),
      i * 3,
    );
  });
  return out;
}

function geometric({ transform }: SceneNode, x: number, y: number, z: number): Vec3 {
  return transformPoint(geometricMatrix(transform), x, y, z);
}

interface Skinning {
  influences: NonNullable<PolygonMesh['influences']>;
  bones: readonly Matrix4[];
  /** Where the node is, for points that no joint moves. */
  world: Matrix4;
}

function skinned(
  { influences: { starts, joints, weights }, bones, world }: Skinning,
  point: number,
  place: Vec3,
): Vec3 {
  const out: Vec3 = [0, 0, 0];
  let sum = 0;
  for (let i = starts[point]; i < starts[point + 1]; i += 1) {
    const bone = bones[joints[i]];
    if (!bone) continue;
    const moved = transformPoint(bone, ...place);
    for (let k = 0; k < 3; k += 1) out[k] += weights[i] * moved[k];
    sum += weights[i];
  }
  return sum > 0 ? (out.map((value) => value / sum) as Vec3) : transformPoint(world, ...place);
}

function morphedPoints(
  { points, shapes }: PolygonMesh,
  picked: readonly number[],
  weights: readonly number[] | undefined,
): Float64Array {
  const out = new Float64Array(picked.length * 3);
  picked.forEach((point, i) => {
    for (let k = 0; k < 3; k += 1) out[i * 3 + k] = points[point * 3 + k];
  });
  shapes.forEach((shape, s) => {
    const weight = weights?.[s] ?? shape.weight;
    if (weight === 0) return;
    // A point may be picked several times.
    const moved = new Map<number, number>();
    shape.points.forEach((point, j) => moved.set(point, j));
    picked.forEach((point, i) => {
      const j = moved.get(point);
      if (j === undefined) return;
      for (let k = 0; k < 3; k += 1) out[i * 3 + k] += weight * shape.offsets[j * 3 + k];
    });
  });
  return out;
}
