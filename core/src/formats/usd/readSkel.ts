import {
  addUncarried,
  createNode,
  type Influences,
  type SceneDocument,
  type Track,
  type Vec3,
} from '../../scene/document.ts';
import {
  decompose,
  identity,
  invertAffine,
  localMatrix,
  type Matrix4,
  multiply,
  partsOfMatrix,
  rotationOfQuaternion,
  scaling,
  translation,
} from '../../scene/matrix.ts';
import type { ComposedPrim } from './compose.ts';
import { poseShapes, readWeightTracks, type ShapedNode } from './readBlendShapes.ts';
import { get, numberOf, numbersOf, propertyValue, textsOf } from './values.ts';

/** Nodes of a skeleton's joints, in its order. */
export interface ReadSkeleton {
  prim: ComposedPrim;
  joints: string[];
  nodes: number[];
  bind: Matrix4[];
  /** Skins made of it so far, by the mesh's bind transform and joint order. */
  skins: Map<string, number>;
}

/** Adds a node per joint under the skeleton's own node, at rest. */
export function readSkeleton(
  prim: ComposedPrim,
  skeletonNode: number,
  document: SceneDocument,
): ReadSkeleton {
  const joints = textsOf(get(prim, 'joints')) ?? [];
  const names = textsOf(get(prim, 'jointNames')) ?? [];
  const rest = matricesOf(get(prim, 'restTransforms'));
  const bind = matricesOf(get(prim, 'bindTransforms'));
  const nodes: number[] = [];
  const byName = new Map<string, number>();
  joints.forEach((joint, i) => {
    const cut = joint.lastIndexOf('/');
    const above = jointAbove(joint, byName);
    const parent = above === null ? skeletonNode : (byName.get(above) as number);
    const parentBind = above === null ? undefined : bind[joints.indexOf(above)];
    // Without rest transforms the bind pose serves, made relative to the parent's.
    const local =
      rest[i] ??
      (bind[i] ? multiply(parentBind ? invertAffine(parentBind) : identity(), bind[i]) : identity());
    const node =
      document.nodes.push(
        createNode(
          names.length === joints.length && names[i] !== '' ? names[i] : joint.slice(cut + 1),
          'bone',
          parent,
          { transform: partsOfMatrix(local) },
        ),
      ) - 1;
    byName.set(joint, node);
    nodes.push(node);
  });
  return { prim, joints, nodes, bind, skins: new Map() };
}

/** The nearest joint on the way up a joint's path, which may lead through what is no joint. */
function jointAbove(joint: string, listed: ReadonlyMap<string, number>): string | null {
  for (let cut = joint.lastIndexOf('/'); cut > 0; cut = joint.lastIndexOf('/', cut - 1)) {
    const path = joint.slice(0, cut);
    if (listed.has(path)) return path;
  }
  return null;
}

function matricesOf(value: ReturnType<typeof get>): Matrix4[] {
  const numbers = numbersOf(value);
  if (!numbers) return [];
  return Array.from({ length: Math.floor(numbers.length / 16) }, (_, i) =>
    numbers.slice(i * 16, i * 16 + 16),
  );
}

/** Binds a node's mesh to its skeleton: influences on the mesh, a skin on the node. */
export function bindMesh(
  prim: ComposedPrim,
  node: number,
  skeleton: ReadSkeleton,
  document: SceneDocument,
): void {
  const mesh = document.meshes[document.nodes[node].mesh];
  const indicesProperty = prim.properties.get('primvars:skel:jointIndices');
  const weightsProperty = prim.properties.get('primvars:skel:jointWeights');
  const indices = numbersOf(propertyValue(indicesProperty));
  const weights = numbersOf(propertyValue(weightsProperty));
  // A skeleton without joints moves nothing.
  if (!indices || !weights || skeleton.nodes.length === 0) return;
  const size = Math.max(1, numberOf(indicesProperty?.metadata.elementSize) ?? 1);
  const points = mesh.points.length / 3;
  const constant = indicesProperty?.metadata.interpolation === 'constant';
  mesh.influences = gather({ indices, weights }, size, points, constant);
  const jointPaths = textsOf(get(prim, 'skel:joints'));
  const order = jointPaths ?? skeleton.joints;
  const [geomBind = identity()] = matricesOf(get(prim, 'primvars:skel:geomBindTransform'));
  const key = `${[...geomBind].join(' ')} ${order.join(' ')}`;
  let skin = skeleton.skins.get(key);
  if (skin === undefined) {
    const joints: number[] = [];
    const inverse: Matrix4[] = [];
    for (const name of order) {
      const index = skeleton.joints.indexOf(name);
      if (index < 0)
        addUncarried(document.remarks, 'joints that the skeleton does not have', name, {
          why: 'they move nothing',
          severity: 'warning',
        });
      joints.push(skeleton.nodes[Math.max(0, index)]);
      inverse.push(multiply(invertAffine(skeleton.bind[Math.max(0, index)] ?? identity()), geomBind));
    }
    const inverseBind = new Float64Array(joints.length * 16);
    inverse.forEach((matrix, i) => inverseBind.set(matrix, i * 16));
    skin = document.skins.push({ name: skeleton.prim.name, joints, inverseBind }) - 1;
    skeleton.skins.set(key, skin);
  }
  document.nodes[node].skin = skin;
}

function gather(
  { indices, weights }: Record<'indices' | 'weights', Float64Array>,
  size: number,
  points: number,
  constant: boolean,
): Influences {
  const starts = new Uint32Array(points + 1);
  const joints: number[] = [];
  const keptPoints: number[] = [];
  for (let point = 0; point < points; point += 1) {
    for (let k = 0; k < size; k += 1) {
      const offset = (constant ? 0 : point * size) + k;
      if (offset >= indices.length || !(weights[offset] > 0)) continue;
      joints.push(Math.max(0, indices[offset]));
      keptPoints.push(weights[offset]);
    }
    starts[point + 1] = joints.length;
  }
  return { starts, joints: Uint32Array.from(joints), weights: Float32Array.from(keptPoints) };
}

/** What an animation says at all times, of joints and of shapes by name: the pose that a skeleton stands in. */
export function readSkelPose(
  skeleton: ReadSkeleton,
  animation: ComposedPrim | undefined,
  { nodes, meshes }: Pick<SceneDocument, 'nodes' | 'meshes'>,
  meshesOf: readonly ShapedNode[],
): void {
  if (!animation) return;
  const still = (name: string) => {
    const property = animation.properties.get(name);
    return property?.timeSamples?.size ? undefined : numbersOf(propertyValue(property));
  };
  const [moves, turns, scales] = ['translations', 'rotations', 'scales'].map(still);
  for (const [j, joint] of (textsOf(get(animation, 'joints')) ?? []).entries()) {
    const node = nodes[skeleton.nodes[skeleton.joints.indexOf(joint)]];
    if (!node || (!moves && !turns && !scales)) continue;
    const rest = decompose(localMatrix(node.transform));
    const part = (values: Float64Array | undefined, width: number, unsaid: readonly number[]) =>
      values && values.length >= (j + 1) * width ? [...values.slice(j * width, (j + 1) * width)] : unsaid;
    const move = part(moves, 3, rest.translation) as Vec3;
    const scale = part(scales, 3, rest.scale) as Vec3;
    const [w, x, y, z] = part(turns, 4, [rest.quaternion[3], ...rest.quaternion.slice(0, 3)]);
    const turn = rotationOfQuaternion([x, y, z, w]);
    node.transform = partsOfMatrix(multiply(translation(move), multiply(turn, scaling(scale))));
  }
  const weights = still('blendShapeWeights');
  if (weights) poseShapes(textsOf(get(animation, 'blendShapes')) ?? [], weights, meshesOf, { nodes, meshes });
}

/** Joint motion of the animation that a skeleton or its root names. */
export function readSkelAnimation(
  skeleton: ReadSkeleton,
  animation: ComposedPrim | undefined,
  timeCodesPerSecond: number,
  meshesOf: readonly ShapedNode[],
): Track[] {
  if (!animation) return [];
  const tracks: Track[] = [];
  const joints = textsOf(get(animation, 'joints')) ?? [];
  const parts = [
    ['translations', 'translation', 3],
    ['rotations', 'quaternion', 4],
    ['scales', 'scale', 3],
  ] as const;
  for (const [attribute, path, width] of parts) {
    const samples = animation.properties.get(attribute)?.timeSamples;
    if (!samples || samples.size === 0) continue;
    const codes = [...samples.keys()].sort((a, b) => a - b);
    const rows = codes.map((code) => numbersOf(samples.get(code)) ?? new Float64Array(0));
    joints.forEach((joint, j) => {
      const node = skeleton.nodes[skeleton.joints.indexOf(joint)];
      if (node === undefined) return;
      const values = new Float64Array(codes.length * width);
      rows.forEach((row, i) => {
        for (let k = 0; k < width; k += 1) {
          // Quaternions are held with the real part first; tracks have it last.
          const from = width === 4 ? (k + 1) % 4 : k;
          values[i * width + k] = row[j * width + from] ?? 0;
        }
      });
      tracks.push({
        node,
        path,
        times: Float64Array.from(codes, (code) => code / timeCodesPerSecond),
        values,
        interpolation: 'linear',
      });
    });
  }
  tracks.push(...readWeightTracks(animation, timeCodesPerSecond, meshesOf));
  return tracks;
}
