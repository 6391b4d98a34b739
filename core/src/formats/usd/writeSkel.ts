import type { SceneDocument, SceneNode, Track } from '../../scene/document.ts';
import {
  decompose,
  geometricMatrix,
  identity,
  invertAffine,
  localMatrix,
  type Matrix4,
  multiply,
  worldMatrices,
} from '../../scene/matrix.ts';
import { motionInScene } from '../../scene/rebase.ts';
import {
  evaluateTrack,
  STEP_GAP,
  sampleTrack,
  straightSteps,
  toQuaternions,
  trackWidth,
} from '../../scene/tracks.ts';
import type { Losses } from '../written.ts';
import { cleanIdentifier } from './identifiers.ts';
import {
  createListOp,
  createPrim,
  createProperty,
  type ListOp,
  type PrimSpec,
  type UsdValue,
} from './layer.ts';
import { TIME_CODES_PER_SECOND } from './timeCodes.ts';
import { set, setUniform } from './writeViews.ts';
import { carriedClip } from './writeXforms.ts';

/** All joints of a document as one USD skeleton, and how meshes are bound to it. */
export interface SkeletonPlan {
  /** Nodes that become joints, parents first. */
  joints: number[];
  isJoint: Set<number>;
  /** Joint names as paths: `hips/spine/chest`. */
  names: Map<number, string>;
  bind(prim: PrimSpec, node: SceneNode, skeletonPath: string): void;
}

/** What the skeleton is called under the root, if nothing else is. */
export const SKELETON = 'Skeleton';
const ANIMATION = 'Motion';

/** Joints are those of every skin, and bones below. */
export function jointsOf(document: SceneDocument): Set<number> {
  const isJoint = new Set(document.skins.flatMap((skin) => skin.joints));
  document.nodes.forEach((node, i) => {
    if (isJoint.size > 0 && node.kind === 'bone' && node.parent >= 0 && isJoint.has(node.parent))
      isJoint.add(i);
  });
  return isJoint;
}

/** All joints of a document, and the names that they go by. */
export function planSkeletons(document: SceneDocument): SkeletonPlan {
  const isJoint = jointsOf(document);
  const joints = [...isJoint].sort((a, b) => a - b);
  const names = new Map<number, string>();
  const taken = new Set<string>();
  for (const joint of joints) {
    const { name, parent } = document.nodes[joint];
    const above = names.get(parent);
    // Joints are paths: what no path may hold is told by jointNames.
    const plain = cleanIdentifier(name, 'joint');
    let path = above === undefined ? plain : `${above}/${plain}`;
    for (let i = 2; taken.has(path); i += 1) path = `${above === undefined ? '' : `${above}/`}${plain}_${i}`;
    names.set(joint, path);
    taken.add(path);
  }
  return {
    joints,
    isJoint,
    names,
    bind: (prim, node, skeletonPath) => bindMesh(document, names, { prim, node, skeletonPath }),
  };
}

/** Where a joint stands when its skin is bound, in the scene: the first skin that has it decides. */
function bindWorlds(document: SceneDocument, worlds: Matrix4[]): Map<number, Matrix4> {
  const out = new Map<number, Matrix4>();
  document.skins.forEach((skin, s) => {
    const meshNode = document.nodes.findIndex((node) => node.skin === s);
    const mesh = meshNode < 0 ? identity() : meshBind(document, worlds, meshNode, out);
    skin.joints.forEach((joint, j) => {
      if (!out.has(joint))
        out.set(joint, multiply(mesh, invertAffine(skin.inverseBind.slice(j * 16, j * 16 + 16))));
    });
  });
  return out;
}

/** The mesh's place at bind time: what an already settled joint says, else where it stands now. */
function meshBind(
  document: SceneDocument,
  worlds: Matrix4[],
  node: number,
  bindMatrices: Map<number, Matrix4>,
): Matrix4 {
  const { joints, inverseBind } = document.skins[document.nodes[node].skin];
  const index = joints.findIndex((joint) => bindMatrices.has(joint));
  if (index >= 0)
    return multiply(
      bindMatrices.get(joints[index]) as Matrix4,
      inverseBind.slice(index * 16, index * 16 + 16),
    );
  return multiply(worlds[node], geometricMatrix(document.nodes[node].transform));
}

interface BoundMesh {
  prim: PrimSpec;
  node: SceneNode;
  skeletonPath: string;
}

function bindMesh(
  document: SceneDocument,
  names: Map<number, string>,
  { prim, node, skeletonPath }: BoundMesh,
): void {
  const skin = document.skins[node.skin];
  const mesh = document.meshes[node.mesh];
  if (!skin || !mesh.influences) return;
  const { starts, joints, weights } = mesh.influences;
  const points = starts.length - 1;
  let width = 1;
  for (let p = 0; p < points; p += 1) width = Math.max(width, starts[p + 1] - starts[p]);
  const flatJoints = new Int32Array(points * width);
  const flatWeights = new Float32Array(points * width);
  for (let p = 0; p < points; p += 1) {
    for (let i = starts[p]; i < starts[p + 1]; i += 1) {
      flatJoints[p * width + i - starts[p]] = joints[i];
      flatWeights[p * width + i - starts[p]] = weights[i];
    }
  }
  const metadata = { interpolation: 'vertex', elementSize: width };
  prim.properties.set(
    'primvars:skel:jointIndices',
    createProperty('primvars:skel:jointIndices', 'int[]', { value: flatJoints, metadata: { ...metadata } }),
  );
  prim.properties.set(
    'primvars:skel:jointWeights',
    createProperty('primvars:skel:jointWeights', 'float[]', {
      value: flatWeights,
      metadata: { ...metadata },
    }),
  );
  setUniform(
    prim,
    'skel:joints',
    'token[]',
    skin.joints.map((joint) => names.get(joint) ?? ''),
  );
  const worlds = worldMatrices(document.nodes);
  const place = meshBind(document, worlds, document.nodes.indexOf(node), bindWorlds(document, worlds));
  set(prim, 'primvars:skel:geomBindTransform', 'matrix4d', Float64Array.from(place));
  prim.properties.set(
    'skel:skeleton',
    createProperty('skel:skeleton', '', { kind: 'relationship', targets: [skeletonPath] }),
  );
  const schemas = (prim.metadata.apiSchemas as ListOp | undefined)?.prepended ?? [];
  prim.metadata.apiSchemas = createListOp({ prepended: [...schemas, 'SkelBindingAPI'] });
}

/** The stage that a skeleton is written into. */
interface SkeletonPlace {
  /** What the skeleton is called below the root. */
  name: string;
  root: PrimSpec;
  rootPath: string;
  /** Keeps names below the root apart. */
  nameUnder: (name: string) => string;
  primOf: (node: number) => PrimSpec | null;
  /** Where each node stands in the scene. */
  worlds: Matrix4[];
}

/** Adds the skeleton and its motion under the root. */
export function writeSkeletons(
  document: SceneDocument,
  plan: SkeletonPlan,
  { name, root, rootPath, nameUnder, primOf, worlds }: SkeletonPlace,
  losses: Losses,
): void {
  const tracks = carriedClip(document)?.tracks ?? [];
  for (const { name: part, mesh } of document.nodes)
    if (document.meshes[mesh]?.shapes.some(({ weight }) => weight !== 0))
      losses.add({ code: 'usd.morphRest', part });
  const weights = tracks.filter((track) => track.path === 'weights' && primOf(track.node));
  if (plan.joints.length === 0) {
    if (weights.length > 0) losses.add({ code: 'usd.morphMotion' });
    return;
  }
  const skeleton = createPrim(name, 'Skeleton');
  const bind = bindWorlds(document, worlds);
  const locals = plan.joints.map((joint) => restOf(document.nodes, joint, plan, worlds));
  setUniform(
    skeleton,
    'joints',
    'token[]',
    plan.joints.map((joint) => plan.names.get(joint) as string),
  );
  const titles = plan.joints.map((joint) => document.nodes[joint].name);
  const jointNames = plan.joints.map((joint) => (plan.names.get(joint) as string).replace(/^.*\//, ''));
  if (titles.some((title, i) => title !== jointNames[i]))
    setUniform(skeleton, 'jointNames', 'token[]', titles);
  setUniform(
    skeleton,
    'bindTransforms',
    'matrix4d[]',
    joined(plan.joints.map((joint) => bind.get(joint) ?? worlds[joint])),
  );
  setUniform(skeleton, 'restTransforms', 'matrix4d[]', joined(locals));
  const moving = plan.joints.flatMap((joint) => motionOf(document.nodes, joint, plan, tracks));
  if (moving.length > 0 || weights.length > 0) {
    const motion = createPrim(nameUnder(ANIMATION), 'SkelAnimation');
    fillMotion(motion, document, plan, { locals, tracks: moving });
    fillWeights(motion, document, weights);
    skeleton.metadata.apiSchemas = createListOp({ prepended: ['SkelBindingAPI'] });
    skeleton.properties.set(
      'skel:animationSource',
      createProperty('skel:animationSource', '', {
        kind: 'relationship',
        targets: [`${rootPath}/${motion.name}`],
      }),
    );
    root.children.push(motion);
  }
  root.children.push(skeleton);
}

/** A joint's rest pose relative to the joint above it, or to the scene. */
function restOf(nodes: readonly SceneNode[], joint: number, plan: SkeletonPlan, worlds: Matrix4[]): Matrix4 {
  return plan.isJoint.has(nodes[joint].parent) ? localMatrix(nodes[joint].transform) : worlds[joint];
}

/**
 * A joint's motion relative to the joint above it, or in the scene: the skeleton hangs on nothing that moves.
 */
function motionOf(
  nodes: readonly SceneNode[],
  joint: number,
  plan: SkeletonPlan,
  tracks: readonly Track[],
): Track[] {
  if (plan.isJoint.has(nodes[joint].parent) || nodes[joint].parent < 0)
    return tracks.filter((track) => track.node === joint);
  return motionInScene(nodes, joint, tracks);
}

function joined(matrices: Matrix4[]): Float64Array {
  const out = new Float64Array(matrices.length * 16);
  matrices.forEach((matrix, i) => out.set(matrix, i * 16));
  return out;
}

interface JointMotion {
  /** Rest poses by joint. */
  locals: Matrix4[];
  tracks: Track[];
}

function fillMotion(
  motion: PrimSpec,
  document: SceneDocument,
  plan: SkeletonPlan,
  { locals, tracks }: JointMotion,
): void {
  setUniform(
    motion,
    'joints',
    'token[]',
    plan.joints.map((joint) => plan.names.get(joint) as string),
  );
  const dense = tracks.map((track) => {
    if (track.path === 'rotation') {
      const turning = toQuaternions(track, document.nodes[track.node], TIME_CODES_PER_SECOND);
      return straightSteps(turning, STEP_GAP);
    }
    return track.interpolation === 'cubic'
      ? sampleTrack(track, trackWidth(track), TIME_CODES_PER_SECOND)
      : straightSteps(track, STEP_GAP);
  });
  const times = [...new Set(dense.flatMap((track) => [...track.times]))].sort((a, b) => a - b);
  const find = (joint: number, path: Track['path']) =>
    dense.find((track) => track.node === joint && track.path === path);
  const rest = locals.map(decompose);
  const table = (path: Track['path'], width: number, fallback: (j: number) => number[], order: number[]) => {
    const samples = new Map<number, UsdValue>();
    const ownTracks = plan.joints.map((joint) => find(joint, path));
    for (const time of times.length > 0 ? times : [0]) {
      const row = new Float32Array(plan.joints.length * width);
      ownTracks.forEach((track, j) => {
        const value = track ? evaluateTrack(track, time, width) : fallback(j);
        for (let k = 0; k < width; k += 1) row[j * width + k] = value[order[k]];
      });
      samples.set(time * TIME_CODES_PER_SECOND, row);
    }
    return samples;
  };
  const add = (name: string, type: string, samples: Map<number, UsdValue>) =>
    motion.properties.set(name, createProperty(name, type, { timeSamples: samples }));
  add(
    'translations',
    'float3[]',
    table('translation', 3, (j) => rest[j].translation, [0, 1, 2]),
  );
  add(
    'rotations',
    'quatf[]',
    table('quaternion', 4, (j) => rest[j].quaternion, [3, 0, 1, 2]),
  );
  add(
    'scales',
    'half3[]',
    table('scale', 3, (j) => rest[j].scale, [0, 1, 2]),
  );
}

function fillWeights(motion: PrimSpec, document: SceneDocument, tracks: Track[]): void {
  if (tracks.length === 0) return;
  const names = tracks.flatMap((track) =>
    document.meshes[document.nodes[track.node].mesh].shapes.map((shape) => shape.name),
  );
  const times = [...new Set(tracks.flatMap((track) => [...track.times]))].sort((a, b) => a - b);
  const samples = new Map<number, UsdValue>();
  for (const time of times)
    samples.set(
      time * TIME_CODES_PER_SECOND,
      Float32Array.from(tracks.flatMap((track) => evaluateTrack(track, time))),
    );
  setUniform(motion, 'blendShapes', 'token[]', names);
  motion.properties.set(
    'blendShapeWeights',
    createProperty('blendShapeWeights', 'float[]', { timeSamples: samples }),
  );
}
