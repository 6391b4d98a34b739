import type { Track, TransformParts, Vec3 } from './document.ts';

/** A transform whose parent's space begins elsewhere: it stands where it stood. */
export function shiftTransform(transform: TransformParts, by: Vec3): TransformParts {
  const minus = (v: ArrayLike<number>): Vec3 => [v[0] - by[0], v[1] - by[1], v[2] - by[2]];
  if (!transform.matrix) return { ...transform, translation: minus(transform.translation) };
  const matrix = transform.matrix.slice();
  matrix.set(minus(matrix.subarray(12, 15)), 12);
  return { ...transform, matrix };
}

/** The same for keys of translation. Of cubic keys the middle third is the value; tangents do not move. */
export function shiftKeys(track: Track, by: Vec3): Track {
  const isValue = (i: number) => track.interpolation !== 'cubic' || Math.floor(i / 3) % 3 === 1;
  return { ...track, values: track.values.map((value, i) => (isValue(i) ? value - by[i % 3] : value)) };
}
