import type { SceneNode, Track, TrackPath, TransformParts, Vec3 } from './document.ts';
import {
  type Decomposed,
  decompose,
  eulerOf,
  localMatrix,
  type Matrix4,
  multiply,
  rotationOfQuaternion,
} from './matrix.ts';
import { shiftKeys } from './shift.ts';
import { evaluateTrack, inOneWay, sampleTrack, trackWidth } from './tracks.ts';

/** Keys a second where a path between two keys is not straight. */
const DENSE = 30;

/** A node's transform with what a track says of it at some moment. */
export function movedTransform(
  transform: TransformParts,
  path: TrackPath,
  value: readonly number[],
): TransformParts {
  const three = value.slice(0, 3) as Vec3;
  switch (path) {
    case 'translation':
    case 'rotation':
    case 'scale':
      return { ...transform, matrix: null, [path]: three };
    case 'quaternion': {
      const { rotationOrder } = transform;
      const whole = eulerOf(rotationOfQuaternion(value), rotationOrder);
      return { ...transform, matrix: null, preRotation: [0, 0, 0], postRotation: [0, 0, 0], rotation: whole };
    }
    default:
      return transform;
  }
}

/** Whether a track moves its node about. */
export function isMotion({ path }: Track): boolean {
  return path !== 'weights' && path !== 'visible';
}

/**
 * The motion of one node that hangs in another space now: `into` takes the space it hung in to the one it
 * hangs in. What is seen stays the same. Null where it would be sheared, which keys cannot say.
 */
export function rebaseTracks(tracks: readonly Track[], rest: TransformParts, into: Matrix4): Track[] | null {
  if (isShift(into))
    return tracks.map((track) =>
      track.path === 'translation' ? shiftKeys(track, [-into[12], -into[13], -into[14]]) : track,
    );
  const even = inOneWay(tracks);
  const times = timesOf(even.tracks);
  const moments = Array.from(times, (time) => {
    const posed = even.tracks.reduce(
      (transform, track) => movedTransform(transform, track.path, evaluateTrack(track, time)),
      rest,
    );
    return decompose(multiply(into, localMatrix(posed)));
  });
  if (moments.some(({ exact }) => !exact)) return null;
  return keysOf(tracks[0].node, times, moments, even.interpolation);
}

/** Keys of place, turn and size at some moments. */
export function keysOf(
  node: number,
  times: Float64Array,
  moments: readonly Decomposed[],
  interpolation: Track['interpolation'],
): Track[] {
  const made = (path: TrackPath, values: readonly (readonly number[])[]): Track => ({
    node,
    path,
    times,
    values: Float64Array.from(values.flat()),
    interpolation,
  });
  const [places, turns, scales] = [
    moments.map(({ translation }) => translation),
    moments.map(({ quaternion }) => quaternion),
    moments.map(({ scale }) => scale),
  ];
  return [made('translation', places), made('quaternion', shortWay(turns)), made('scale', scales)];
}

/**
 * The motion of a node in the scene, with the motion of all that it hangs on; empty where nothing of them
 * moves. Sheared moments are said as well as they can be.
 */
export function motionInScene(nodes: readonly SceneNode[], node: number, tracks: readonly Track[]): Track[] {
  const chain: number[] = [];
  for (let above = node; above >= 0; above = nodes[above].parent) chain.unshift(above);
  const even = inOneWay(tracks.filter((track) => chain.includes(track.node) && isMotion(track)));
  if (even.tracks.length === 0) return [];
  const moving = chain.map((node) => even.tracks.filter((track) => track.node === node));
  const times = timesOf(even.tracks);
  const moments = Array.from(times, (time) =>
    decompose(
      chain
        .map((node, i) =>
          localMatrix(
            moving[i].reduce(
              (posed, track) => movedTransform(posed, track.path, evaluateTrack(track, time)),
              nodes[node].transform,
            ),
          ),
        )
        .reduce(multiply),
    ),
  );
  return keysOf(node, times, moments, even.interpolation);
}

/** The motion of one node as place, turn and size of its whole transform, for formats without pivots. */
export function wholeMotion(transform: TransformParts, tracks: readonly Track[]): Track[] {
  const even = inOneWay(tracks);
  const times = timesOf(even.tracks);
  const moments = Array.from(times, (time) =>
    decompose(
      localMatrix(
        even.tracks.reduce(
          (posed, track) => movedTransform(posed, track.path, evaluateTrack(track, time)),
          transform,
        ),
      ),
    ),
  );
  return keysOf(tracks[0].node, times, moments, even.interpolation);
}

/** Whether a matrix moves, and nothing else, but for rounding. */
export function isShift(matrix: Matrix4): boolean {
  return matrix.every((value, i) => (i >= 12 && i < 15) || Math.abs(value - (i % 5 === 0 ? 1 : 0)) < 1e-12);
}

/** All moments that any of them has a key at, and more where the way between two of them is not straight. */
export function timesOf(tracks: readonly Track[]): Float64Array {
  const straight = tracks.every(
    ({ path, interpolation }) =>
      interpolation === 'step' || (interpolation === 'linear' && path === 'translation'),
  );
  const dense = tracks.map((track) => (straight ? track : sampleTrack(track, trackWidth(track), DENSE)));
  return Float64Array.from(new Set(dense.flatMap(({ times }) => Array.from(times)))).sort();
}

/** Of the two quaternions of each turn the one that is nearer to the turn before. */
function shortWay(turns: readonly (readonly number[])[]): number[][] {
  let last: readonly number[] = [0, 0, 0, 1];
  return turns.map((turn) => {
    const sign = turn.reduce((sum, component, k) => sum + component * last[k], 0) < 0 ? -1 : 1;
    last = turn.map((component) => component * sign);
    return [...last];
  });
}
