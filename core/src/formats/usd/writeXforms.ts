import type { Clip, SceneDocument, SceneNode, Track, TransformParts, Vec3 } from '../../scene/document.ts';
import {
  eulerOf,
  localMatrix,
  type Matrix4,
  multiply,
  partsOfMatrix,
  quaternionOf,
  rotation,
  wholeTurn,
} from '../../scene/matrix.ts';
import { wholeMotion } from '../../scene/rebase.ts';
import {
  evaluateTrack,
  STEP_GAP,
  sampleTrack,
  straightSteps,
  toQuaternions,
  trackWidth,
} from '../../scene/tracks.ts';
import type { Losses } from '../written.ts';
import { createProperty, type PrimSpec, type UsdValue } from './layer.ts';
import { TIME_CODES_PER_SECOND } from './timeCodes.ts';

/** The one clip that a stage has room for: the first that moves, else the first, which holds one pose. */
export function carriedClip({ clips }: SceneDocument): Clip | undefined {
  return clips.find(({ tracks }) => tracks.some(({ times }) => times.length > 1)) ?? clips[0];
}

/** The carried clip's tracks by node. */
export function tracksByNode(document: SceneDocument): Map<number, Track[]> {
  const out = new Map<number, Track[]>();
  for (const track of carriedClip(document)?.tracks ?? []) {
    const list = out.get(track.node) ?? [];
    out.set(track.node, list);
    list.push(track);
  }
  return out;
}

interface Placing {
  /** In place of the node's own transform, where it has no parent here; its tracks are of that place then. */
  placed: Matrix4 | null;
  tracks: Track[];
}

/**
 * Writes a node's transform as operations: translate, pivot, rotate, scale where these say it, else one
 * matrix. Motion becomes time samples of the operations; `placed` replaces the whole transform of a node
 * without a parent here.
 */
export function addTransform(
  prim: PrimSpec,
  node: SceneNode,
  { placed, tracks }: Placing,
  losses: Losses,
): void {
  const moving = tracks.filter((track) => track.path !== 'weights');
  const transforming = moving.filter((track) => track.path !== 'visible');
  const isWhole = !placed && transforming.length > 0 && !hasOnePivot(node.transform, transforming);
  const parts = partsToWrite(placed, isWhole ? [] : transforming, node);
  const ops = new Ops(prim);
  if (parts.matrix) {
    ops.add('transform', 'matrix4d', Float64Array.from(parts.matrix));
    if (transforming.length > 0) losses.add({ code: 'usd.shearMotion' });
  } else addParts(ops, node, parts, isWhole ? wholeMotion(node.transform, transforming) : transforming);
  const visible = moving.find((track) => track.path === 'visible');
  if (visible) {
    const samples = shownAndHidden(visible);
    const value = node.visible ? 'inherited' : 'invisible';
    prim.properties.set('visibility', createProperty('visibility', 'token', { value, timeSamples: samples }));
  }
  ops.close();
}

/** The operations of one prim, in the order in which they are said. */
class Ops {
  private readonly order: string[] = [];

  constructor(private readonly prim: PrimSpec) {}

  add(op: string, type: string, value: UsdValue, samples: Map<number, UsdValue> | null = null): void {
    const name = `xformOp:${op}`;
    this.prim.properties.set(name, createProperty(name, type, { value, timeSamples: samples }));
    this.order.push(name);
  }

  /** A shift that does something, if its numbers do. */
  shift(op: string, by: Vec3): void {
    if (isSet(by)) this.add(op, 'double3', Float64Array.from(by));
  }

  /** Takes a shift back. */
  unshift(op: string, by: Vec3): void {
    if (isSet(by)) this.order.push(`!invert!xformOp:${op}`);
  }

  close(): void {
    if (this.order.length === 0) return;
    this.prim.properties.set(
      'xformOpOrder',
      createProperty('xformOpOrder', 'token[]', { uniform: true, value: this.order }),
    );
  }
}

const isSet = (vector: Vec3) => vector.some((component) => component !== 0);

/** Whether a turn and a scale about one pivot say it: readers know no other places to turn and scale about. */
function hasOnePivot(t: TransformParts, moving: readonly Track[]): boolean {
  const scales = moving.some(({ path }) => path === 'scale') || t.scale.some((component) => component !== 1);
  const isShared = t.rotationPivot.every((component, i) => component === t.scalingPivot[i]);
  return !isSet(t.scalingOffset) && (isShared || !scales);
}

function partsToWrite(placed: Matrix4 | null, transforming: Track[], node: SceneNode) {
  if (placed) return partsOfMatrix(placed);
  return transforming.length > 0 ? node.transform : simpleParts(node.transform);
}

/** Place, then the turn and the scale about one pivot. */
function addParts(ops: Ops, node: SceneNode, parts: TransformParts, moving: readonly Track[]): void {
  const of = (...paths: Track['path'][]) => moving.find((track) => paths.includes(track.path));
  const [placing, turning, scaling] = [of('translation'), of('rotation', 'quaternion'), of('scale')];
  const scales = scaling !== undefined || parts.scale.some((component) => component !== 1);
  const plus = (v: readonly number[]) =>
    Float64Array.from(parts.rotationOffset, (component, i) => component + v[i]);
  const place = plus(parts.translation);
  if (placing || place.some((component) => component !== 0))
    ops.add('translate', 'double3', place, placing ? sample(placing, plus) : null);
  ops.shift('translate:pivot', parts.rotationPivot);
  addTurn(ops, node, parts, turning);
  if (scales)
    ops.add(
      'scale',
      'float3',
      Float64Array.from(parts.scale),
      scaling ? sample(scaling, (v) => Float64Array.from(v)) : null,
    );
  ops.unshift('translate:pivot', parts.rotationPivot);
}

/**
 * The turn as angles, or as quaternions where it has turns before and after it, moves by quaternions, or moves by
 * angles in an order that readers do not know.
 */
function addTurn(ops: Ops, node: SceneNode, parts: TransformParts, turning: Track | undefined): void {
  const isOddOrder = turning !== undefined && parts.rotationOrder !== 'XYZ';
  if (turning?.path === 'quaternion' || hasFixedTurns(parts) || isOddOrder) {
    const whole = turning?.path === 'rotation' ? toQuaternions(turning, node) : turning;
    const turn: number[] = quaternionOf(wholeTurn(parts));
    const first = whole ? evaluateTrack(whole, whole.times[0] ?? 0) : turn;
    // The same turn has two quaternions; of these the one that the motion begins with.
    const rest = turn.map(
      (component) => component * (turn.reduce((sum, x, k) => sum + x * first[k], 0) < 0 ? -1 : 1),
    );
    ops.add('orient', 'quatf', realFirst(rest), whole ? sample(whole, realFirst) : null);
  } else if (turning || isSet(parts.rotation)) {
    const samples = turning ? sample(turning, (v) => Float64Array.from(v)) : null;
    const angles = turning ? parts.rotation : anglesXyz(parts);
    ops.add('rotateXYZ', 'float3', Float64Array.from(angles), samples);
  }
}

/** A turn that does not move, in the one order that every reader knows. */
function anglesXyz({ rotation: angles, rotationOrder }: TransformParts): Vec3 {
  const isPlain = rotationOrder === 'XYZ' || angles.filter((angle) => angle !== 0).length < 2;
  return isPlain ? angles : eulerOf(rotation(angles, rotationOrder));
}

function hasFixedTurns(t: TransformParts): boolean {
  return (
    t.preRotation.some((component) => component !== 0) || t.postRotation.some((component) => component !== 0)
  );
}

/** Parts as USD's usual operations say them: one pivot, no fixed turns; a matrix where that is not enough. */
function simpleParts(t: TransformParts): TransformParts {
  if (t.matrix) return t;
  const offsets =
    t.rotationOffset.some((component) => component !== 0) ||
    t.scalingOffset.some((component) => component !== 0);
  const samePivot = t.rotationPivot.every((component, i) => component === t.scalingPivot[i]);
  if (!offsets && samePivot) {
    if (!hasFixedTurns(t)) return mirroredOnce(t);
    return mirroredOnce({
      ...t,
      rotation: eulerOf(wholeTurn(t), t.rotationOrder) as Vec3,
      preRotation: [0, 0, 0],
      postRotation: [0, 0, 0],
    });
  }
  return mirroredOnce(partsOfMatrix(localMatrix(t)));
}

/** A mirroring along three axes as one along x and half a turn about it, since readers stumble over the three. */
function mirroredOnce(t: TransformParts): TransformParts {
  if (t.matrix || !t.scale.every((component) => component < 0)) return t;
  const turned = multiply(rotation(t.rotation, t.rotationOrder), rotation([180, 0, 0]));
  const [x, y, z] = t.scale;
  return { ...t, rotation: eulerOf(turned, t.rotationOrder) as Vec3, scale: [x, -y, -z] };
}

/** Time samples. They are joined by straight lines: curved spans are sampled densely, steps are held. */
function sample(track: Track, convert: (value: number[]) => UsdValue): Map<number, UsdValue> {
  const straight =
    track.interpolation === 'cubic'
      ? sampleTrack(track, trackWidth(track), TIME_CODES_PER_SECOND)
      : straightSteps(track, STEP_GAP);
  const width = trackWidth(straight);
  const out = new Map<number, UsdValue>();
  straight.times.forEach((time, i) => {
    out.set(
      time * TIME_CODES_PER_SECOND,
      convert(Array.from({ length: width }, (_, k) => straight.values[i * width + k])),
    );
  });
  return out;
}

/** What is shown is held until the next sample: one for each key, and one where a straight span turns over. */
function shownAndHidden(track: Track): Map<number, UsdValue> {
  const { times, values, interpolation } =
    track.interpolation === 'cubic' ? sampleTrack(track, 1, TIME_CODES_PER_SECOND) : track;
  const out = new Map<number, UsdValue>();
  const isShown = (value: number) => value > 0.5;
  const say = (time: number, shown: boolean) =>
    out.set(time * TIME_CODES_PER_SECOND, shown ? 'inherited' : 'invisible');
  times.forEach((time, i) => {
    const [a, b] = [values[i], values[i + 1] ?? values[i]];
    say(time, isShown(a));
    if (interpolation === 'linear' && isShown(a) !== isShown(b))
      say(time + ((times[i + 1] - time) * (0.5 - a)) / (b - a), isShown(b));
  });
  return out;
}

/** x, y, z, w as USD holds it: real part first. */
function realFirst([x, y, z, w]: number[]): Float64Array {
  return Float64Array.of(w, x, y, z);
}
