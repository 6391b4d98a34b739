import type { SceneNode, Track } from './document.ts';
import { invertAffine, type Matrix4, multiply, quaternionOf, rotation } from './matrix.ts';

/** How far straight pieces may be off a cubic: in degrees, in parts of a quaternion, in shares of the range. */
const OFF_A_CURVE = { rotation: 5e-5, quaternion: 5e-7, share: 1e-6 } as const;
/** A curve that is quicker than the samples is off by no more than so many times that. */
const COARSE = 400;
/** Angles that run straight turn by no more than this from one sample to the next. */
const DEGREES_BETWEEN = 0.25;
/** A straight piece of angles turns by no more than this about all axes together: turns go another way between. */
const DEGREES_OF_A_PIECE = 4;
/** The same as {@link DEGREES_BETWEEN} for quaternions, whose parts change by up to half an angle in radians. */
const PIECES_OF_A_TURN = 2 / ((DEGREES_BETWEEN * Math.PI) / 180);

/** Numbers per key that a track holds for one moment. */
export function trackWidth(track: Track): number {
  return track.times.length === 0
    ? 0
    : track.values.length / track.times.length / (track.interpolation === 'cubic' ? 3 : 1);
}

/**
 * The key that opens the span of a time, which must lie between the first and the last of at least two keys.
 */
export function spanAt(times: Float64Array, time: number): number {
  let low = 0;
  let high = times.length - 1;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (times[middle] <= time) low = middle;
    else high = middle;
  }
  return low;
}

/**
 * The track's value at a time, held before its first and after its last key. Quaternions turn along the short
 * arc.
 */
export function evaluateTrack(track: Track, time: number, width = trackWidth(track)): number[] {
  const { times, interpolation } = track;
  const last = times.length - 1;
  const key = (i: number, part: 0 | 1 | 2) =>
    Array.from(
      { length: width },
      (_, k) => track.values[interpolation === 'cubic' ? (i * 3 + part) * width + k : i * width + k],
    );
  if (last < 0) return new Array<number>(width).fill(0);
  if (time <= times[0]) return key(0, 1);
  if (time >= times[last]) return key(last, 1);
  const low = spanAt(times, time);
  const high = low + 1;
  const a = key(low, 1);
  if (interpolation === 'step') return a;
  const b = key(high, 1);
  const span = times[high] - times[low];
  const t = (time - times[low]) / span;
  if (interpolation === 'cubic') {
    const [t2, t3] = [t * t, t * t * t];
    const [out, into] = [key(low, 2), key(high, 0)];
    const value = a.map(
      (from, k) =>
        (2 * t3 - 3 * t2 + 1) * from +
        (t3 - 2 * t2 + t) * span * out[k] +
        (3 * t2 - 2 * t3) * b[k] +
        (t3 - t2) * span * into[k],
    );
    return track.path === 'quaternion' ? normalised(value) : value;
  }
  return track.path === 'quaternion' ? slerp(a, b, t) : a.map((from, k) => from + (b[k] - from) * t);
}

/**
 * The track with keys so often a second, more seldom where that tells no more and more often where curves are
 * quick; spans between are then straight enough for any reader.
 */
export function sampleTrack(track: Track, width: number, perSecond: number): Track {
  const { times } = track;
  const dense = new Set<number>(times);
  const range = rangeOf(track, width);
  for (let i = 0; i + 1 < times.length; i += 1) {
    const even = Math.ceil((times[i + 1] - times[i]) * perSecond - 1e-6);
    const { fine, coarse } = piecesOfSpan(track, width, i, range);
    const pieces = Math.min(Math.max(even, coarse), fine);
    for (let p = 1; p < pieces; p += 1) dense.add(times[i] + ((times[i + 1] - times[i]) * p) / pieces);
  }
  const sorted = Float64Array.from(dense).sort();
  const values = new Float64Array(sorted.length * width);
  sorted.forEach((time, i) => values.set(evaluateTrack(track, time, width), i * width));
  return {
    ...track,
    times: sorted,
    values,
    interpolation: track.interpolation === 'step' ? 'step' : 'linear',
  };
}

/** Pieces of the span behind a key beyond which more would tell nothing, and those that its curve wants. */
function piecesOfSpan(
  track: Track,
  width: number,
  i: number,
  range: number,
): { fine: number; coarse: number } {
  const { path, interpolation, values } = track;
  if (interpolation === 'step') return { fine: 1, coarse: 1 };
  const cubic = interpolation === 'cubic';
  let [pieces, turned, turnedInAll] = [1, 0, 0];
  for (let k = 0; k < width; k += 1) {
    // In-tangent, value and out-tangent of a cubic's key.
    const [from, to] = cubic
      ? [(i * 3 + 1) * width + k, (i * 3 + 4) * width + k]
      : [i * width + k, (i + 1) * width + k];
    const change = values[to] - values[from];
    turned = Math.max(turned, Math.abs(change));
    turnedInAll += Math.abs(change);
    if (!cubic) continue;
    const span = track.times[i + 1] - track.times[i];
    const [out, into] = [values[from + width] * span, values[to - width] * span];
    // The second derivative of a Hermite span is straight, so that its ends are its most; n straight pieces
    // are an eighth of it by n squared off.
    const bend = Math.max(
      Math.abs(6 * change - 4 * out - 2 * into),
      Math.abs(6 * change - 2 * out - 4 * into),
    );
    const off = path === 'rotation' || path === 'quaternion' ? OFF_A_CURVE[path] : OFF_A_CURVE.share * range;
    pieces = Math.max(pieces, Math.ceil(Math.sqrt(bend / (8 * (off || 1)))));
  }
  const coarse = Math.ceil(pieces / Math.sqrt(COARSE));
  if (path === 'rotation')
    return {
      fine: Math.max(pieces, Math.ceil(turned / DEGREES_BETWEEN)),
      coarse: Math.max(coarse, Math.ceil(turnedInAll / DEGREES_OF_A_PIECE)),
    };
  // Between quaternions the way is round.
  const round = path === 'quaternion' ? Math.ceil(turned * PIECES_OF_A_TURN) : 1;
  return { fine: Math.max(pieces, round), coarse };
}

/** How far apart the values of a track are. */
function rangeOf({ values, interpolation }: Track, width: number): number {
  let [least, most] = [Infinity, -Infinity];
  const step = interpolation === 'cubic' ? width * 3 : width;
  for (let start = interpolation === 'cubic' ? width : 0; start < values.length; start += step)
    for (let k = start; k < start + width; k += 1) {
      least = Math.min(least, values[k]);
      most = Math.max(most, values[k]);
    }
  return most - least;
}

/** Angles of a node's rotation track as whole rotations, pre- and post-rotation included. */
export function toQuaternions(track: Track, node: SceneNode, perSecond = 30): Track {
  const { preRotation, postRotation, rotationOrder } = node.transform;
  const before = rotation(preRotation);
  const after = invertAffine(rotation(postRotation));
  const sampled = track.interpolation === 'step' ? track : sampleTrack(track, 3, perSecond);
  const values = new Float64Array(sampled.times.length * 4);
  let last = [0, 0, 0, 1];
  sampled.times.forEach((_, i) => {
    const angles = [0, 1, 2].map((k) => sampled.values[i * 3 + k]) as [number, number, number];
    const whole: Matrix4 = multiply(multiply(before, rotation(angles, rotationOrder)), after);
    const q = quaternionOf(whole);
    const sign = q[0] * last[0] + q[1] * last[1] + q[2] * last[2] + q[3] * last[3] < 0 ? -1 : 1;
    last = q.map((component) => component * sign);
    values.set(last, i * 4);
  });
  return {
    node: track.node,
    path: 'quaternion',
    times: sampled.times,
    values,
    interpolation: sampled.interpolation,
  };
}

/** Between two turns, the short way round at an even speed. */
export function slerp(a: number[], b: number[], t: number): number[] {
  let dot = a.reduce((sum, component, k) => sum + component * b[k], 0);
  const sign = dot < 0 ? -1 : 1;
  dot = Math.min(1, dot * sign);
  const angle = Math.acos(dot);
  if (angle < 1e-6) return normalised(a.map((component, k) => component + (sign * b[k] - component) * t));
  const [wa, wb] = [
    Math.sin((1 - t) * angle) / Math.sin(angle),
    (sign * Math.sin(t * angle)) / Math.sin(angle),
  ];
  return a.map((component, k) => component * wa + b[k] * wb);
}

function normalised(q: number[]): number[] {
  const length = Math.hypot(...q) || 1;
  return q.map((component) => component / length);
}

/**
 * A track of steps as one of straight spans: each value is held until `gap` seconds before the next key. Other
 * tracks stay as they are.
 */
export function straightSteps(track: Track, gap: number): Track {
  if (track.interpolation !== 'step') return track;
  const width = trackWidth(track);
  const times: number[] = [];
  const values: number[] = [];
  track.times.forEach((time, i) => {
    const value = track.values.subarray(i * width, (i + 1) * width);
    const held = (track.times[i + 1] ?? time) - gap;
    for (const key of held > time ? [time, held] : [time]) {
      times.push(key);
      values.push(...value);
    }
  });
  return {
    ...track,
    times: Float64Array.from(times),
    values: Float64Array.from(values),
    interpolation: 'linear',
  };
}

/** Seconds that a step takes where it stands among straight spans: a thousandth of a frame of film. */
export const STEP_GAP = 1 / 24_000;

/** Tracks that one set of keys is made of: of steps alone as they are, else steps as straight spans. */
export function inOneWay(tracks: readonly Track[]): {
  tracks: readonly Track[];
  interpolation: 'step' | 'linear';
} {
  if (tracks.every(({ interpolation }) => interpolation === 'step')) return { tracks, interpolation: 'step' };
  return { tracks: tracks.map((track) => straightSteps(track, STEP_GAP)), interpolation: 'linear' };
}
