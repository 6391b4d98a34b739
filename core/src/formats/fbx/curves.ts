import { bendsOf, passingTimes, sharesAt } from '../../scene/inBetweens.ts';
import { spanAt } from '../../scene/tracks.ts';

/** One animated number: keys in seconds with the slopes beside each. */
export interface Curve {
  times: Float64Array;
  values: Float64Array;
  /** Per key the kind of the span that follows it. */
  kinds: Uint8Array;
  /** Slopes per second: leaving key i, and arriving at key i + 1. */
  out: Float64Array;
  into: Float64Array;
}

/** Kind of a key: its value holds until the next key. */
export const STEP = 0;
/** Kind of a key: a straight line to the next key. */
export const LINEAR = 1;
/**
 * Kind of a key: a Hermite curve to the next key, with the slopes of `out` and `into` in units per second.
 */
export const CUBIC = 2;

/** FBX counts time in this many ticks a second. */
export const TICKS_PER_SECOND = 46_186_158_000;

/** A curve of linear keys with slopes of zero; `times` in seconds, ascending, as long as `values`. */
export function createCurve(times: Float64Array, values: Float64Array): Curve {
  const n = times.length;
  return {
    times,
    values,
    kinds: new Uint8Array(n).fill(LINEAR),
    out: new Float64Array(n),
    into: new Float64Array(n),
  };
}

/** The curve's value at a time, held before the first and after the last key; cubic spans are Hermite. */
export function evaluate(curve: Curve, time: number): number {
  const { times, values, kinds, out, into } = curve;
  const last = times.length - 1;
  if (last < 0) return 0;
  if (time <= times[0]) return values[0];
  if (time >= times[last]) return values[last];
  const low = spanAt(times, time);
  const high = low + 1;
  const span = times[high] - times[low];
  const t = (time - times[low]) / span;
  if (kinds[low] === STEP) return values[low];
  if (kinds[low] === LINEAR) return values[low] + (values[high] - values[low]) * t;
  const t2 = t * t;
  const t3 = t2 * t;
  return (
    (2 * t3 - 3 * t2 + 1) * values[low] +
    (t3 - 2 * t2 + t) * span * out[low] +
    (3 * t2 - 2 * t3) * values[high] +
    (t3 - t2) * span * into[low]
  );
}

/**
 * A curve for each of the shapes that one weight goes through, which stand as they are written at the stops:
 * straight between its keys and where one shape goes over into the next; bent spans are sampled.
 */
export function curvesOfShapes(curve: Curve, stops: readonly number[]): Curve[] {
  const times = timesThrough(curve, bendsOf(stops));
  const kinds = Uint8Array.from(times, (time) => (kindAt(curve, time) === STEP ? STEP : LINEAR));
  const shares = Array.from(times, (time) => sharesAt(stops, evaluate(curve, time)));
  return stops.map((_, i) => ({
    ...createCurve(
      times,
      Float64Array.from(shares, (share) => share[i]),
    ),
    kinds,
  }));
}

function kindAt({ times, kinds }: Curve, time: number): number {
  return time < times[0] ? kinds[0] : kinds[Math.min(spanAt(times, time), kinds.length - 1)];
}

function timesThrough(curve: Curve, bends: readonly number[]): Float64Array {
  const keys = curve.kinds.includes(CUBIC) ? sampleTimes([curve]) : curve.times;
  const all = new Set(keys);
  for (let i = 0; i + 1 < keys.length; i += 1) {
    if (kindAt(curve, keys[i]) === STEP) continue;
    const [start, end] = [keys[i], keys[i + 1]];
    for (const time of passingTimes([start, end], [evaluate(curve, start), evaluate(curve, end)], bends))
      all.add(time);
  }
  return Float64Array.from(all).sort();
}

/** How densely a curve that other formats cannot say is sampled, per second. */
const SAMPLES_PER_SECOND = 30;
const MAX_SAMPLES = 100_000;

/**
 * Keys of several curves on common times in seconds; `values` holds the components of each time in turn, and
 * for cubic keys the in-tangents, the values and the out-tangents of each time.
 */
export interface JoinedKeys {
  times: Float64Array;
  values: Float64Array;
  interpolation: 'step' | 'linear' | 'cubic';
}

/**
 * Joins the curves of several components into one list of keys. Where all have the same keys and one kind of
 * span they stay exact (cubic as in-tangent, value, out-tangent); else straight spans are joined at every
 * key, and curved ones sampled 30 times a second. A component without a curve holds its fallback.
 */
export function joinCurves(curves: (Curve | null)[], fallback: readonly number[]): JoinedKeys {
  const present = curves.filter((curve) => curve !== null);
  const kinds = new Set(
    present.flatMap((curve) => [...curve.kinds.subarray(0, Math.max(1, curve.kinds.length - 1))]),
  );
  const [first] = present;
  const same = present.every(
    (curve) =>
      curve.times.length === first.times.length && curve.times.every((time, i) => time === first.times[i]),
  );
  if (same && kinds.size === 1 && kinds.has(CUBIC)) return joinCubic(curves, fallback, first.times);
  const times = commonTimes(kinds, present);
  const width = curves.length;
  const values = new Float64Array(times.length * width);
  for (let i = 0; i < times.length; i += 1) {
    for (let k = 0; k < width; k += 1) {
      const curve = curves[k];
      values[i * width + k] = curve ? evaluate(curve, times[i]) : fallback[k];
    }
  }
  return { times, values, interpolation: kinds.size === 1 && kinds.has(STEP) ? 'step' : 'linear' };
}

function commonTimes(kinds: Set<number>, present: Curve[]) {
  if (kinds.size === 1 && kinds.has(STEP)) return unionTimes(present);
  return kinds.has(CUBIC) || kinds.has(STEP) ? sampleTimes(present) : unionTimes(present);
}

function joinCubic(curves: (Curve | null)[], fallback: readonly number[], times: Float64Array): JoinedKeys {
  const width = curves.length;
  const values = new Float64Array(times.length * width * 3);
  for (let i = 0; i < times.length; i += 1) {
    for (let k = 0; k < width; k += 1) {
      const curve = curves[k];
      const offset = i * width * 3 + k;
      values[offset + width] = curve ? curve.values[i] : fallback[k];
      if (!curve) continue;
      values[offset] = i > 0 ? curve.into[i - 1] : 0;
      values[offset + width * 2] = i + 1 < times.length ? curve.out[i] : 0;
    }
  }
  return { times: Float64Array.from(times), values, interpolation: 'cubic' };
}

function unionTimes(curves: Curve[]): Float64Array {
  return Float64Array.from(new Set(curves.flatMap((curve) => [...curve.times]))).sort();
}

function sampleTimes(curves: Curve[]): Float64Array {
  const keys = unionTimes(curves);
  const [start, end] = [keys[0], keys[keys.length - 1]];
  const count = Math.min(MAX_SAMPLES, Math.ceil((end - start) * SAMPLES_PER_SECOND));
  const all = new Set(keys);
  for (let i = 0; i <= count; i += 1) all.add(start + (i / Math.max(1, count)) * (end - start));
  return Float64Array.from(all).sort();
}
