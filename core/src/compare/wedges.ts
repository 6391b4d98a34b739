import { faceVector, type Look } from './look.ts';

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
  const { part, placeOf, angles, cloud } = look;
  const { points, faces } = part;
  const sums = new Float64Array(placeOf.length * 4);
  const shortest = new Float64Array(cloud.size).fill(Infinity);
  let start = 0;
  for (const count of faces) {
    const normal = faceVector(points, start, count);
    const length = Math.hypot(...normal);
    for (let k = 0; k < count; k += 1) {
      const here = start + k;
      const after = k + 1 < count ? here + 1 : start;
      const ux = points[after * 3] - points[here * 3];
      const uy = points[after * 3 + 1] - points[here * 3 + 1];
      const uz = points[after * 3 + 2] - points[here * 3 + 2];
      const reach = Math.sqrt(ux * ux + uy * uy + uz * uz);
      const [one, other] = [placeOf[here], placeOf[after]];
      if (reach < shortest[one]) shortest[one] = reach;
      if (reach < shortest[other]) shortest[other] = reach;
      if (length === 0 || reach === 0) continue;
      const angle = angles[here];
      // Along the side that leaves, and a quarter turn from it into the face.
      const [across, deep] = [Math.sin(angle) / reach, (1 - Math.cos(angle)) / (reach * length)];
      const index = here * 4;
      sums[index] = angle;
      sums[index + 1] = across * ux + deep * (normal[1] * uz - normal[2] * uy);
      sums[index + 2] = across * uy + deep * (normal[2] * ux - normal[0] * uz);
      sums[index + 3] = across * uz + deep * (normal[0] * uy - normal[1] * ux);
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
  return countApart([a, b], matches, { ...one, a: sumsOf(a), b: sumsOf(b) }, tolerance);
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
  const from = firstAtPlaces(a.look, values, size);
  if (!from) return 0;
  const fromThere = new Float64Array(b.look.cloud.size * size);
  matches.forEach((other, place) => {
    fromThere.set(from.subarray(place * size, (place + 1) * size), other * size);
  });
  const sums = { a: sumsOf(a, values, from), b: sumsOf(b, others, fromThere) };
  return countApart([a, b], matches, { size, allowed, ...sums }, tolerance);
}

/** The first value at each place; null where every corner of a place has the same, so that none can be swapped. */
function firstAtPlaces({ placeOf, cloud }: Look, values: Float64Array, size: number): Float64Array | null {
  const first = new Float64Array(cloud.size * size);
  const known = new Uint8Array(cloud.size);
  let several = false;
  for (let corner = 0; corner < placeOf.length; corner += 1) {
    const place = placeOf[corner];
    for (let k = 0; k < size; k += 1) {
      const [value, at] = [values[corner * size + k], place * size + k];
      if (known[place] === 0) first[at] = value;
      else if (value !== first[at]) several = true;
    }
    known[place] = 1;
  }
  return several ? first : null;
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

/** Values summed over the wedges at each place, counted from those of `from` there; 1 for all unless told. */
function sumsOf(
  { look: { placeOf, cloud }, sums }: Wedges,
  values: Float64Array | null = null,
  from: Float64Array = new Float64Array(cloud.size),
): Sums {
  const size = from.length / cloud.size;
  const out = new Float64Array(cloud.size * size * 4);
  const [angles, largest] = [new Float64Array(cloud.size), new Float64Array(cloud.size)];
  for (let corner = 0; corner < placeOf.length; corner += 1) {
    const [place, wedge] = [placeOf[corner], corner * 4];
    angles[place] += sums[wedge];
    for (let k = 0; k < size; k += 1) {
      const value = values ? values[corner * size + k] - from[place * size + k] : 1;
      // At most places all corners have the same.
      if (value === 0) continue;
      if (Math.abs(value) > largest[place]) largest[place] = Math.abs(value);
      const to = (place * size + k) * 4;
      for (let i = 0; i < 4; i += 1) out[to + i] += value * sums[wedge + i];
    }
  }
  return { sums: out, angles, largest };
}
