import {
  identityTransform,
  type RotationOrder,
  type Track,
  type TransformParts,
  type Vec3,
} from '../../scene/document.ts';
import {
  decompose,
  identity,
  invertAffine,
  type Matrix4,
  multiply,
  partsOfMatrix,
  rotation,
  rotationOfQuaternion,
  scaling,
  translation,
} from '../../scene/matrix.ts';
import { slerp } from '../../scene/tracks.ts';
import type { ComposedPrim, ComposedProperty } from './compose.ts';
import type { UsdValue } from './layer.ts';
import { isMoving, numberOf, numbersOf, propertyValue, textsOf } from './values.ts';

/** What the ops of a prim's xformOpOrder come to. */
export interface ReadTransform {
  parts: TransformParts;
  /** The prim does not stand under its parent's transform. */
  resets: boolean;
  /** Motion of the whole transform or of its parts; node numbers are filled in later. */
  tracks: Omit<Track, 'node'>[];
}

interface Op {
  kind: string;
  inverted: boolean;
  pivot: boolean;
  property: ComposedProperty | undefined;
}

/** Reads the transform operations of a prim, in any order, with their motion. */
export function readTransform(prim: ComposedPrim, timeCodesPerSecond: number): ReadTransform {
  const order = textsOf(propertyValue(prim.properties.get('xformOpOrder'))) ?? [];
  const resets = order.includes('!resetXformStack!');
  const names = order.slice(order.lastIndexOf('!resetXformStack!') + 1);
  const ops = names.map((name): Op => {
    const inverted = name.startsWith('!invert!');
    const bare = inverted ? name.slice(8) : name;
    const [, kind, suffix] = bare.split(':');
    return { kind: kind ?? '', inverted, pivot: suffix === 'pivot', property: prim.properties.get(bare) };
  });
  const moving = ops.filter(({ property }) => isMoving(property));
  const plain = plainParts(ops);
  if (plain)
    return { parts: plain, resets, tracks: moving.flatMap((op) => partTrack(op, timeCodesPerSecond)) };
  const parts = partsOfMatrix(matrixOf(ops, null));
  return { parts, resets, tracks: moving.length > 0 ? wholeTracks(ops, moving, timeCodesPerSecond) : [] };
}

/**
 * Translate, pivot, rotate, scale, each at most once and in this order, are kept as parts; anything else is a
 * matrix.
 */
function plainParts(ops: Op[]): TransformParts | null {
  const stages: string[] = [];
  for (const op of ops) {
    const stage = stageOf(op);
    stages.push(stage);
  }
  const text = stages.join(' ');
  if (!/^(translate)?( ?pivot)?( ?rotate)?( ?scale)?( ?unpivot)?$/.test(text)) return null;
  if (stages.includes('pivot') !== stages.includes('unpivot')) return null;
  const parts = identityTransform();
  for (const op of ops) {
    const value = propertyValue(op.property);
    if (op.inverted) continue;
    if (op.pivot) parts.rotationPivot = parts.scalingPivot = vector(value, 0);
    else if (op.kind === 'translate') parts.translation = vector(value, 0);
    else if (op.kind === 'scale') parts.scale = vector(value, 1);
    else {
      const angles = anglesOf(op.kind, value);
      if (!angles) return null;
      parts.rotation = angles.angles;
      parts.rotationOrder = angles.order;
    }
  }
  return parts;
}

function stageOf(op: Op) {
  if (op.pivot) return op.inverted ? 'unpivot' : 'pivot';
  if (op.inverted) return 'other';
  return /^rotate/.test(op.kind) ? 'rotate' : op.kind;
}

function vector(value: UsdValue | undefined, fallback: number): Vec3 {
  const numbers = numbersOf(value);
  return numbers && numbers.length >= 3
    ? [numbers[0], numbers[1], numbers[2]]
    : [fallback, fallback, fallback];
}

/** `rotateXYZ` turns about X first; `rotateY` alone about Y. */
function anglesOf(kind: string, value: UsdValue | undefined): { angles: Vec3; order: RotationOrder } | null {
  const letters = kind.slice('rotate'.length);
  if (letters.length === 1) {
    const angles: Vec3 = [0, 0, 0];
    angles['XYZ'.indexOf(letters)] = numberOf(value) ?? 0;
    return { angles, order: 'XYZ' };
  }
  return /^[XYZ]{3}$/.test(letters) ? { angles: vector(value, 0), order: letters as RotationOrder } : null;
}

function matrixOf(ops: Op[], time: number | null): Matrix4 {
  return ops.reduce((matrix, op) => {
    const ownMatrix = opMatrix(
      op.kind,
      time === null ? propertyValue(op.property) : sampleAt(op.property, time),
    );
    return multiply(matrix, op.inverted ? invertAffine(ownMatrix) : ownMatrix);
  }, identity());
}

function opMatrix(kind: string, value: UsdValue | undefined): Matrix4 {
  if (value === undefined || value === null) return identity();
  if (kind === 'translate') return translation(vector(value, 0));
  if (kind === 'scale') return scaling(vector(value, 1));
  if (kind === 'orient') {
    const q = numbersOf(value);
    return q && q.length === 4 ? rotationOfQuaternion([q[1], q[2], q[3], q[0]]) : identity();
  }
  if (kind === 'transform') {
    const m = numbersOf(value);
    return m && m.length === 16 ? Float64Array.from(m) : identity();
  }
  const angles = anglesOf(kind, value);
  return angles ? rotation(angles.angles, angles.order) : identity();
}

/**
 * The value at a time code: the sample there, or straight between its neighbours; turns go round, as OpenUSD
 * has it.
 */
function sampleAt(property: ComposedProperty | undefined, time: number): UsdValue | undefined {
  const samples = property?.timeSamples;
  if (!samples || samples.size === 0) return propertyValue(property);
  const exact = samples.get(time);
  if (exact !== undefined) return exact;
  const times = [...samples.keys()].sort((a, b) => a - b);
  const after = times.findIndex((other) => other > time);
  if (after <= 0) return samples.get(after < 0 ? times[times.length - 1] : times[0]);
  const [a, b] = [samples.get(times[after - 1]), samples.get(times[after])];
  const t = (time - times[after - 1]) / (times[after] - times[after - 1]);
  if (typeof a === 'number' && typeof b === 'number') return a + (b - a) * t;
  const [x, y] = [numbersOf(a), numbersOf(b)];
  if (!x || !y || x.length !== y.length) return a;
  return property.typeName.startsWith('quat')
    ? Float64Array.from(slerp([...x], [...y], t))
    : x.map((from, i) => from + (y[i] - from) * t);
}

function partTrack(op: Op, timeCodesPerSecond: number): Omit<Track, 'node'>[] {
  const samples = op.property?.timeSamples;
  if (!samples || op.pivot || op.inverted) return [];
  const times = [...samples.keys()].sort((a, b) => a - b);
  const rows = times.map((time): Vec3 => {
    const value = samples.get(time);
    if (op.kind === 'translate') return vector(value, 0);
    if (op.kind === 'scale') return vector(value, 1);
    return anglesOf(op.kind, value)?.angles ?? [0, 0, 0];
  });
  const path = trackPath(op);
  return [
    {
      path,
      times: Float64Array.from(times, (time) => time / timeCodesPerSecond),
      values: Float64Array.from(rows.flat()),
      interpolation: 'linear',
    },
  ];
}

/** When a prim is shown and hidden, if that changes. */
export function readVisibility(prim: ComposedPrim, timeCodesPerSecond: number): Omit<Track, 'node'>[] {
  const property = prim.properties.get('visibility');
  const samples = property?.timeSamples;
  if (!samples || !isMoving(property)) return [];
  const codes = [...samples.keys()].sort((a, b) => a - b);
  return [
    {
      path: 'visible',
      times: Float64Array.from(codes, (code) => code / timeCodesPerSecond),
      values: Float64Array.from(codes, (code) => (samples.get(code) === 'invisible' ? 0 : 1)),
      interpolation: 'step',
    },
  ];
}

/** More than this many moments are not put between the keys. */
const MOMENTS = 20_000;

function trackPath(op: Op) {
  if (op.kind === 'translate') return 'translation';
  return op.kind === 'scale' ? 'scale' : 'rotation';
}

/**
 * The times of the keys and whole time codes between them, since several operations together do not move
 * straight.
 */
function between(codes: number[]): number[] {
  const [first, last] = [codes[0], codes[codes.length - 1]];
  if (!(last - first <= MOMENTS)) return codes;
  const whole = Array.from(
    { length: Math.max(0, Math.floor(last) - Math.ceil(first) + 1) },
    (_, i) => Math.ceil(first) + i,
  );
  return [...new Set([...codes, ...whole])].sort((a, b) => a - b);
}

interface Sample {
  code: number;
  place: ReturnType<typeof decompose>;
}

/**
 * Samples at the codes and, where what moves goes round so quickly that the straight way between two is off it, at
 * halves, quarters and so on between them.
 */
function withQuickSpans(codes: readonly number[], placeAt: (code: number) => Sample['place']): Sample[] {
  const coarse = codes.map((code): Sample => ({ code, place: placeAt(code) }));
  if (coarse.length > MOMENTS) return coarse;
  const far = Math.max(...coarse.map(({ place }) => Math.hypot(...place.translation)));
  const span = (from: Sample, to: Sample, halvings: number): Sample[] => {
    if (isSlow(from.place, to.place)) return [to];
    const code = (from.code + to.code) / 2;
    const middle: Sample = { code, place: placeAt(code) };
    if (halvings === 0 || isStraight(from.place, middle.place, to.place, far)) return [to];
    return [...span(from, middle, halvings - 1), ...span(middle, to, halvings - 1)];
  };
  return coarse.flatMap((sample, i) => (i === 0 ? [sample] : span(coarse[i - 1], sample, HALVINGS)));
}

const HALVINGS = 4;
/**
 * How far the middle of a span may be off: as a share of the largest distance and of each size, and as the cosine of
 * half a turn.
 */
const OFF = { share: 1e-4, cosine: Math.cos((0.05 * Math.PI) / 360) };

/** Between so little turn and change of size nothing is off the straight way by more than {@link OFF}. */
const SLOW = { cosine: Math.cos((2 * Math.PI) / 360), size: 0.01 };

function isSlow(from: Sample['place'], to: Sample['place']): boolean {
  const alike = Math.abs(
    from.quaternion.reduce((sum, component, k) => sum + component * to.quaternion[k], 0),
  );
  return (
    alike >= SLOW.cosine &&
    from.scale.every((side, k) => Math.abs(to.scale[k] - side) <= SLOW.size * Math.abs(side))
  );
}

function isStraight(
  from: Sample['place'],
  middle: Sample['place'],
  to: Sample['place'],
  far: number,
): boolean {
  const off = middle.translation.map(
    (component, k) => component - (from.translation[k] + to.translation[k]) / 2,
  );
  const halfway = slerp([...from.quaternion], [...to.quaternion], 0.5);
  const alike = Math.abs(halfway.reduce((sum, component, k) => sum + component * middle.quaternion[k], 0));
  const isEven = middle.scale.every(
    (side, k) => Math.abs(side - (from.scale[k] + to.scale[k]) / 2) <= OFF.share * Math.abs(side),
  );
  return isEven && Math.hypot(...off) <= far * OFF.share && alike >= OFF.cosine;
}

function wholeTracks(ops: Op[], moving: Op[], timeCodesPerSecond: number): Omit<Track, 'node'>[] {
  const codes = between(
    [...new Set(moving.flatMap((op) => [...(op.property?.timeSamples?.keys() ?? [])]))].sort((a, b) => a - b),
  );
  const samples = withQuickSpans(codes, (code) => decompose(matrixOf(ops, code)));
  const split = samples.map(({ place }) => place);
  const times = Float64Array.from(samples, ({ code }) => code / timeCodesPerSecond);
  return [
    {
      path: 'translation',
      times,
      values: Float64Array.from(split.flatMap((decomposed) => decomposed.translation)),
      interpolation: 'linear',
    },
    {
      path: 'quaternion',
      times,
      values: Float64Array.from(split.flatMap((decomposed) => decomposed.quaternion)),
      interpolation: 'linear',
    },
    {
      path: 'scale',
      times,
      values: Float64Array.from(split.flatMap((decomposed) => decomposed.scale)),
      interpolation: 'linear',
    },
  ];
}
