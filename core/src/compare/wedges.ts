import { cornerAngle, faceVector, type Look } from './look.ts';

/**
 * The corners of faces as wedges around their places: what faces say there, summed over their wedges, is the
 * same however plane faces are cut into triangles.
 */
export interface Wedges {
  look: Look;
  /** Angle and directions (summed over it) per corner: four numbers; 0 for faces without area. */
  sums: Float64Array;
  /** Length of the shortest side per place. */
  shortest: Float64Array;
}

/** Numbers per corner of an attribute, on both sides, and by how much they may differ. */
export interface Spread {
  size: number;
  allowed: number;
  a: Float64Array | null;
  b: Float64Array | null;
}

/** Wedges of all faces of a part. */
export function wedgesOf(look: Look): Wedges {
  const { part, placeOf, cloud } = look;
  const { points, faces } = part;
  const sums = new Float64Array(placeOf.length * 4);
  const shortest = new Float64Array(cloud.size).fill(Infinity);
  let start = 0;
  for (const count of faces) {
    const normal = faceVector(points, start, count);
    const length = Math.hypot(...normal);
    for (let k = 0; k < count; k += 1) {
      const here = start + k;
      const after = start + ((k + 1) % count);
      const side = [0, 1, 2].map((axis) => points[after * 3 + axis] - points[here * 3 + axis]);
      const reach = Math.hypot(...side);
      for (const place of [placeOf[here], placeOf[after]]) shortest[place] = Math.min(shortest[place], reach);
      if (length === 0 || reach === 0) continue;
      const angle = cornerAngle({ points, start, count, normal }, k);
      const [u, n] = [side.map((value) => value / reach), normal.map((value) => value / length)];
      // A quarter turn from the side that leaves, into the face.
      const inwards = [n[1] * u[2] - n[2] * u[1], n[2] * u[0] - n[0] * u[2], n[0] * u[1] - n[1] * u[0]];
      const [across, deep] = [Math.sin(angle), 1 - Math.cos(angle)];
      sums[here * 4] = angle;
      for (let axis = 0; axis < 3; axis += 1)
        sums[here * 4 + 1 + axis] = across * u[axis] + deep * inwards[axis];
    }
    start += count;
  }
  return { look, sums, shortest };
}

/** What angles may differ by where places are exact and faces plane. */
const ANGLE = 0.02;
/** Angles of faces that count as plane are exact within this. */
const NOISE = 2e-3;
/** Sides shorter than so many tolerances say nothing of angles. */
const SHORT = 100;

/** Places of plane faces where the faces that meet have other corners. */
export function countReshaped(a: Wedges, b: Wedges, matches: Int32Array, tolerance: number): number {
  const one = { size: 1, allowed: ANGLE / (2 * Math.PI) };
  const ones = ({ look }: Wedges) => new Float64Array(look.placeOf.length).fill(1);
  const zeros = ({ look }: Wedges) => new Float64Array(look.cloud.size);
  const sums = { a: sumsOf(a, ones(a), zeros(a)), b: sumsOf(b, ones(b), zeros(b)) };
  return countApart([a, b], matches, { ...one, ...sums }, tolerance);
}

/** Places of plane faces where values are those of other corners, though each is there somewhere. */
export function countOtherSums(
  [a, b]: readonly [Wedges, Wedges],
  matches: Int32Array,
  { size, allowed, a: values, b: others }: Spread,
  tolerance: number,
): number {
  if (!values || !others) return 0;
  // Counted from a value that is there, what angles are off by weighs no more than values differ.
  const from = new Float64Array(a.look.cloud.size * size);
  for (let corner = a.look.placeOf.length - 1; corner >= 0; corner -= 1)
    from.set(values.subarray(corner * size, (corner + 1) * size), a.look.placeOf[corner] * size);
  const fromThere = new Float64Array(b.look.cloud.size * size);
  matches.forEach((other, place) => {
    fromThere.set(from.subarray(place * size, (place + 1) * size), other * size);
  });
  const sums = { a: sumsOf(a, values, from), b: sumsOf(b, others, fromThere) };
  return countApart([a, b], matches, { size, allowed, ...sums }, tolerance);
}

interface Sums {
  /** Per place and number of a value: times the angle, and times the directions. */
  sums: Float64Array;
  /** Per place. */
  angles: Float64Array;
  /** The largest that was summed, per place. */
  largest: Float64Array;
}

function countApart(
  [a, b]: readonly [Wedges, Wedges],
  matches: Int32Array,
  { size, allowed, a: first, b: second }: { size: number; allowed: number; a: Sums; b: Sums },
  tolerance: number,
): number {
  const numbers = size * 4;
  let count = 0;
  matches.forEach((other, place) => {
    if (a.look.warp[place] > 0 || b.look.warp[other] > 0) return;
    const shortest = Math.min(a.shortest[place], b.shortest[other]);
    if (!(shortest > SHORT * tolerance)) return;
    const angles = Math.max(first.angles[place], second.angles[other]);
    const largest = Math.max(first.largest[place], second.largest[other]);
    const limit = angles * (allowed + (NOISE + (4 * tolerance) / shortest) * largest);
    for (let k = 0; k < numbers; k += 1)
      if (Math.abs(first.sums[place * numbers + k] - second.sums[other * numbers + k]) > limit) {
        count += 1;
        return;
      }
  });
  return count;
}

/** Values summed over the wedges at each place, counted from those of `from` there. */
function sumsOf({ look: { placeOf, cloud }, sums }: Wedges, values: Float64Array, from: Float64Array): Sums {
  const size = from.length / cloud.size;
  const out = new Float64Array(cloud.size * size * 4);
  const [angles, largest] = [new Float64Array(cloud.size), new Float64Array(cloud.size)];
  placeOf.forEach((place, corner) => {
    angles[place] += sums[corner * 4];
    for (let k = 0; k < size; k += 1) {
      const value = values[corner * size + k] - from[place * size + k];
      largest[place] = Math.max(largest[place], Math.abs(value));
      for (let i = 0; i < 4; i += 1) out[(place * size + k) * 4 + i] += value * sums[corner * 4 + i];
    }
  });
  return { sums: out, angles, largest };
}
