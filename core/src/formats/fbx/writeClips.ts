import type { Clip, RotationOrder, SceneNode, Track, Vec3 } from '../../scene/document.ts';
import {
  eulerOf,
  invertAffine,
  type Matrix4,
  multiply,
  rotation,
  rotationOfQuaternion,
} from '../../scene/matrix.ts';
import { evaluateTrack, sampleTrack } from '../../scene/tracks.ts';
import { TICKS_PER_SECOND } from './curves.ts';
import { D, floats, I, integers, numberEntry, object, properties70, record, timeEntry } from './records.ts';
import type { FbxNode, FbxProperty } from './tree.ts';

const CONSTANT = 0x2;
const LINEAR = 0x4;
const CUBIC_USER = 0x8 | 0x400;
const COMPONENTS = ['d|X', 'd|Y', 'd|Z'];
/** How a quantity's curve node is called, the property that it moves, and its components. */
const NAMES: Partial<Record<Track['path'], [string, string, string[]?]>> = {
  translation: ['T', 'Lcl Translation'],
  rotation: ['R', 'Lcl Rotation'],
  scale: ['S', 'Lcl Scaling'],
  visible: ['Visibility', 'Visibility', ['d|Visibility']],
};
const SAMPLES_PER_SECOND = 30;

/** What the clip writer needs of the file being built. */
export interface ClipSink {
  nodes: readonly SceneNode[];
  newId(): number;
  add(record: FbxNode): void;
  link(child: number, parent: number, property?: string): void;
  /** Object id of a node's Model record, and of the channel of a node's n-th shape. */
  modelId(node: number): number;
  shapeChannelId(node: number, shape: number): number | undefined;
}

/** Writes a clip as one stack with one layer. */
export function writeClip(clip: Clip, sink: ClipSink): void {
  const stack = sink.newId();
  const layer = sink.newId();
  const [start, end] = [ticks(clip.start), ticks(clip.end)];
  const span = [
    timeEntry('LocalStart', start),
    timeEntry('LocalStop', end),
    timeEntry('ReferenceStart', start),
    timeEntry('ReferenceStop', end),
  ];
  sink.add(
    object('AnimationStack', stack, { name: clip.name, className: 'AnimStack' }, [properties70(span)]),
  );
  sink.add(
    object('AnimationLayer', layer, { name: clip.name, className: 'AnimLayer' }, [
      properties70([numberEntry('Weight', 100)]),
    ]),
  );
  sink.link(layer, stack);
  for (const track of clip.tracks) {
    if (track.path === 'weights') writeWeights(track, layer, sink);
    else
      writeTrack(track.path === 'quaternion' ? toAngles(track, sink.nodes[track.node]) : track, layer, sink);
  }
}

function writeTrack(track: Track, layer: number, sink: ClipSink): void {
  const [short, property, components = COMPONENTS] = NAMES[track.path] as [string, string, string[]?];
  const width = components.length;
  const curveNode = sink.newId();
  const first = firstValues(track, width);
  sink.add(
    object('AnimationCurveNode', curveNode, { name: short, className: 'AnimCurveNode' }, [
      properties70(first.map((value, i) => numberEntry(components[i], value))),
    ]),
  );
  sink.link(curveNode, layer);
  sink.link(curveNode, sink.modelId(track.node), property);
  for (let k = 0; k < width; k += 1) {
    const curve = sink.newId();
    sink.add(curveRecord(curve, track, { width, k }, 1));
    sink.link(curve, curveNode, components[k]);
  }
}

function writeWeights(track: Track, layer: number, sink: ClipSink): void {
  const width = track.values.length / track.times.length / (track.interpolation === 'cubic' ? 3 : 1);
  for (let shape = 0; shape < width; shape += 1) {
    const channel = sink.shapeChannelId(track.node, shape);
    if (channel === undefined) continue;
    const [curveNode, curve] = [sink.newId(), sink.newId()];
    sink.add(
      object('AnimationCurveNode', curveNode, { name: 'DeformPercent', className: 'AnimCurveNode' }, [
        properties70([numberEntry('d|DeformPercent', 0)]),
      ]),
    );
    sink.add(curveRecord(curve, track, { width, k: shape }, 100));
    sink.link(curveNode, layer);
    sink.link(curveNode, channel, 'DeformPercent');
    sink.link(curve, curveNode, 'd|DeformPercent');
  }
}

function firstValues(track: Track, width: number): number[] {
  const offset = track.interpolation === 'cubic' ? width : 0;
  return Array.from({ length: width }, (_, k) => track.values[offset + k]);
}

/** One of the numbers that a track has for each key. */
interface TrackNumber {
  /** How many there are. */
  width: number;
  k: number;
}

/** One number of a track as a curve; equal key attributes are written once for all keys. */
function curveRecord(id: number, track: Track, { width, k }: TrackNumber, unit: number): FbxNode {
  const { times, values, interpolation } = track;
  const count = times.length;
  const cubic = interpolation === 'cubic';
  const valueAt = (i: number) => (cubic ? values[i * width * 3 + width + k] : values[i * width + k]) * unit;
  const times64: FbxProperty = {
    type: 'l',
    value: BigInt64Array.from({ length: count }, (_, i) => ticks(times[i])),
  };
  const attributes = cubic
    ? {
        flags: new Array<number>(count).fill(CUBIC_USER),
        data: Array.from({ length: count }, (_, i) => [
          values[i * width * 3 + width * 2 + k] * unit,
          (i + 1 < count ? values[(i + 1) * width * 3 + k] : 0) * unit,
          0,
          0,
        ]).flat(),
        runs: new Array<number>(count).fill(1),
      }
    : { flags: [interpolation === 'step' ? CONSTANT : LINEAR], data: [0, 0, 0, 0], runs: [count] };
  return object('AnimationCurve', id, { className: 'AnimCurve' }, [
    record('Default', [D(count > 0 ? valueAt(0) : 0)]),
    record('KeyVer', [I(4008)]),
    record('KeyTime', [times64]),
    floats(
      'KeyValueFloat',
      Array.from({ length: count }, (_, i) => valueAt(i)),
    ),
    integers('KeyAttrFlags', attributes.flags),
    floats('KeyAttrDataFloat', attributes.data),
    integers('KeyAttrRefCount', attributes.runs),
  ]);
}

/** How far turns between two keys may be off, in radians: a millimetre at five metres. */
const OFF_A_TURN = 2e-4;
/** A span is halved no more often. */
const MOST_HALVINGS = 10;

/** A key of a track of angles, and the rotation that they stand for. */
interface AngleKey {
  time: number;
  whole: Matrix4;
  angles: Vec3;
}

/**
 * A track of whole rotations as angles beside the node's pre- and post-rotation, without jumps of a whole
 * turn. Angles that change evenly are another way round than rotations that do: keys are added where the two
 * part.
 */
export function toAngles(track: Track, node: SceneNode): Track {
  const { rotationOrder, preRotation, postRotation } = node.transform;
  const before = invertAffine(rotation(preRotation));
  const after = rotation(postRotation);
  const step = track.interpolation === 'step';
  const keyAt = (time: number, near: Vec3): AngleKey => {
    const whole = multiply(multiply(before, rotationOfQuaternion(evaluateTrack(track, time, 4))), after);
    return { time, whole, angles: nearest(eulerOf(whole, rotationOrder), rotationOrder, near) };
  };
  const keys: AngleKey[] = [];
  const addTo = (from: AngleKey, to: AngleKey, halvings: number): void => {
    if (halvings > 0) {
      const middle = keyAt((from.time + to.time) / 2, from.angles);
      const way = rotation(from.angles.map((angle, k) => (angle + to.angles[k]) / 2) as Vec3, rotationOrder);
      if (turnBetween(middle.whole, way) > OFF_A_TURN) {
        addTo(from, middle, halvings - 1);
        addTo(middle, { ...to, angles: nearest(to.angles, rotationOrder, middle.angles) }, halvings - 1);
        return;
      }
    }
    keys.push(to);
  };
  const { times } = step ? track : sampleTrack(track, 4, SAMPLES_PER_SECOND);
  for (const time of times) {
    const last = keys.at(-1);
    const key = keyAt(time, last?.angles ?? [0, 0, 0]);
    if (last) addTo(last, key, step ? 0 : MOST_HALVINGS);
    else keys.push(key);
  }
  return {
    node: track.node,
    path: 'rotation',
    times: Float64Array.from(keys, (key) => key.time),
    values: Float64Array.from(keys.flatMap(({ angles }) => angles)),
    interpolation: step ? 'step' : 'linear',
  };
}

/** Of the angles that stand for a rotation those nearest to others: whole turns away, or over the middle axis. */
function nearest(angles: Vec3, order: RotationOrder, near: Vec3): Vec3 {
  const middle = order.charCodeAt(1) - 88;
  const over = angles.map((angle, k) => (k === middle ? 180 - angle : angle + 180)) as Vec3;
  const [first, second] = [angles, over].map(
    (list) => list.map((angle, k) => angle + 360 * Math.round((near[k] - angle) / 360)) as Vec3,
  );
  const away = (list: Vec3) => list.reduce((sum, angle, k) => sum + Math.abs(angle - near[k]), 0);
  return away(second) < away(first) ? second : first;
}

/** The angle between two rotations, in radians. */
function turnBetween(a: Matrix4, b: Matrix4): number {
  let sum = 0;
  for (const k of [0, 1, 2, 4, 5, 6, 8, 9, 10]) sum += (a[k] - b[k]) ** 2;
  return 2 * Math.asin(Math.min(1, Math.sqrt(sum / 8)));
}

function ticks(seconds: number): bigint {
  return BigInt(Math.round(seconds * TICKS_PER_SECOND));
}
