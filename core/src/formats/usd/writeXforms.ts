import type { SceneDocument, SceneNode, Track, TransformParts, Vec3 } from '../../scene/document.ts';
import { eulerOf, invertAffine, localMatrix, type Matrix4, multiply, partsOfMatrix, rotation } from '../../scene/matrix.ts';
import { evaluateTrack, sampleTrack, toQuaternions, trackWidth } from '../../scene/tracks.ts';
import type { Losses } from '../written.ts';
import { createProperty, type PrimSpec, type UsdValue } from './layer.ts';
import { TIME_CODES_PER_SECOND } from './writeStage.ts';

/** The first clip's tracks by node. */
export function tracksByNode(document: SceneDocument): Map<number, Track[]> {
  const out = new Map<number, Track[]>();
  for (const track of document.clips[0]?.tracks ?? []) {
    const list = out.get(track.node) ?? [];
    out.set(track.node, list);
    list.push(track);
  }
  return out;
}

/**
 * Writes a node's transform as operations: translate, pivot, rotate, scale where these say it, else one matrix.
 * Motion becomes time samples of the operations; `placed` replaces the whole transform of a node without a parent here.
 */
export function addTransform(prim: PrimSpec, node: SceneNode, placed: Matrix4 | null, tracks: Track[], losses: Losses): void {
  const parts = placed ? partsOfMatrix(placed) : simpleParts(node.transform);
  const order: string[] = [];
  const add = (op: string, type: string, value: UsdValue, samples: Map<number, UsdValue> | null = null) => {
    const name = `xformOp:${op}`;
    prim.properties.set(name, createProperty(name, type, { value, timeSamples: samples }));
    order.push(name);
  };
  const moving = placed ? [] : tracks.filter((track) => track.path !== 'weights');
  if (placed && tracks.length > 0) losses.add({ code: 'usd.boneMotion' });
  if (parts.matrix) {
    add('transform', 'matrix4d', Float64Array.from(parts.matrix));
    if (moving.length > 0) losses.add({ code: 'usd.shearMotion' });
  } else {
    const samplesOf = (path: Track['path'], convert: (v: number[]) => UsdValue) => {
      const track = moving.find((other) => other.path === path);
      return track ? sample(track, convert) : null;
    };
    const vector = (v: number[]) => Float64Array.from(v);
    const turning = moving.find((track) => track.path === 'rotation' || track.path === 'quaternion');
    const whole =
      turning && (turning.path === 'quaternion' || hasFixedTurns(node.transform))
        ? turning.path === 'quaternion'
          ? turning
          : toQuaternions(turning, node)
        : null;
    const pivot = parts.rotationPivot.some((part) => part !== 0) ? parts.rotationPivot : null;
    const translation = samplesOf('translation', vector);
    if (translation || parts.translation.some((part) => part !== 0)) add('translate', 'double3', Float64Array.from(parts.translation), translation);
    if (pivot) add('translate:pivot', 'double3', Float64Array.from(pivot));
    if (whole) add('orient', 'quatf', realFirst(evaluateTrack(whole, whole.times[0] ?? 0)), sample(whole, realFirst));
    else if (turning || parts.rotation.some((part) => part !== 0)) {
      add(`rotate${parts.rotationOrder}`, 'float3', Float64Array.from(parts.rotation), samplesOf('rotation', vector));
    }
    const scale = samplesOf('scale', vector);
    if (scale || parts.scale.some((part) => part !== 1)) add('scale', 'float3', Float64Array.from(parts.scale), scale);
    if (pivot) order.push('!invert!xformOp:translate:pivot');
  }
  const visible = moving.find((track) => track.path === 'visible');
  if (visible) {
    const samples = sample(visible, ([value]) => (value > 0.5 ? 'inherited' : 'invisible'));
    prim.properties.set('visibility', createProperty('visibility', 'token', { timeSamples: samples }));
  }
  if (order.length > 0) prim.properties.set('xformOpOrder', createProperty('xformOpOrder', 'token[]', { uniform: true, value: order }));
}

function hasFixedTurns(t: TransformParts): boolean {
  return t.preRotation.some((part) => part !== 0) || t.postRotation.some((part) => part !== 0);
}

/** Parts as USD's usual operations say them: one pivot, no fixed turns; a matrix where that is not enough. */
function simpleParts(t: TransformParts): TransformParts {
  if (t.matrix) return t;
  const offsets = t.rotationOffset.some((part) => part !== 0) || t.scalingOffset.some((part) => part !== 0);
  const samePivot = t.rotationPivot.every((part, i) => part === t.scalingPivot[i]);
  if (!offsets && samePivot) {
    if (!hasFixedTurns(t)) return t;
    const whole = multiply(multiply(rotation(t.preRotation), rotation(t.rotation, t.rotationOrder)), invertAffine(rotation(t.postRotation)));
    return { ...t, rotation: eulerOf(whole, t.rotationOrder) as Vec3, preRotation: [0, 0, 0], postRotation: [0, 0, 0] };
  }
  return partsOfMatrix(localMatrix(t));
}

/** Time samples; curved spans are sampled densely, since samples are joined by straight lines. */
function sample(track: Track, convert: (value: number[]) => UsdValue): Map<number, UsdValue> {
  const straight = track.interpolation === 'cubic' ? sampleTrack(track, trackWidth(track), TIME_CODES_PER_SECOND) : track;
  const width = trackWidth(straight);
  const out = new Map<number, UsdValue>();
  straight.times.forEach((time, i) => {
    out.set(time * TIME_CODES_PER_SECOND, convert(Array.from({ length: width }, (_, k) => straight.values[i * width + k])));
  });
  return out;
}

/** x, y, z, w as USD holds it: real part first. */
function realFirst([x, y, z, w]: number[]): Float64Array {
  return Float64Array.of(w, x, y, z);
}
