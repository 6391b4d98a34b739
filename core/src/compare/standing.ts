import { Cloud } from './cloud.ts';
import { type Difference, difference } from './difference.ts';
import { boundsOf, toleranceOf } from './extent.ts';
import type { WorldPart } from './worldParts.ts';

/** Another unit: everything is larger by one factor. The rest is compared at the same size. */
export function resolveUnit(
  a: readonly WorldPart[],
  b: readonly WorldPart[],
  size: number,
): [Difference | null, readonly WorldPart[]] {
  const factor = diagonal(b) / diagonal(a);
  if (!(factor > 0) || Math.abs(factor - 1) < 1e-3 || shareThere(a, b, size) > 0.9) return [null, b];
  const scaled = b.map((part) => ({ ...part, points: part.points.map((value) => value / factor) }));
  // A part that is gone makes the whole smaller, too; only what fits at another size is a unit.
  if (turnsOnto(a, scaled, size).next().done) return [null, b];
  const message = `the whole is ${Number(factor.toPrecision(4))} times as large`;
  return [difference('model.unit', message, { measured: factor, allowed: 1e-3 }), scaled];
}

/** The 24 turns that take axes to axes. */
const ROTATIONS: readonly number[][] = rotations();

function rotations(): number[][] {
  const out: number[][] = [];
  for (const [x, y, z] of [
    [0, 1, 2],
    [0, 2, 1],
    [1, 0, 2],
    [1, 2, 0],
    [2, 0, 1],
    [2, 1, 0],
  ])
    for (const sx of [1, -1])
      for (const sy of [1, -1])
        for (const sz of [1, -1]) {
          const rows = [0, 0, 0, 0, 0, 0, 0, 0, 0];
          rows[x] = sx;
          rows[3 + y] = sy;
          rows[6 + z] = sz;
          const [a, b, c, d, e, f, g, h, i] = rows;
          if (a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g) === 1) out.push(rows);
        }
  // As it is comes first.
  return out.sort((first, second) => Number(isStill(second)) - Number(isStill(first)));
}

/** Directions turned; what else stands beside each, up to `width`, stays. */
function turnVectors(vectors: Float64Array, rows: readonly number[], width: 3 | 4): Float64Array {
  const out = vectors.slice();
  for (let index = 0; index < vectors.length; index += width)
    for (let k = 0; k < 3; k += 1)
      out[index + k] =
        rows[k * 3] * vectors[index] +
        rows[k * 3 + 1] * vectors[index + 1] +
        rows[k * 3 + 2] * vectors[index + 2];
  return out;
}

function rotated(parts: readonly WorldPart[], rows: readonly number[]): WorldPart[] {
  return parts.map((part) => ({
    ...part,
    points: turnVectors(part.points, rows, 3),
    normals: part.normals && turnVectors(part.normals, rows, 3),
    tangents: part.tangents && turnVectors(part.tangents, rows, 4),
  }));
}

/**
 * How the other may stand: as it is, or turned so that it stands where one does; with the difference that the
 * turn is.
 */
export interface Standing {
  axes: Difference | null;
  parts: readonly WorldPart[];
}

/**
 * Other axes: everything lies on another side, and the rest is compared as it would stand. As it is comes
 * first where it stands there; what looks the same from several sides may be turned in several ways.
 */
export function* standingsOf(
  a: readonly WorldPart[],
  b: readonly WorldPart[],
  size: number,
): Generator<Standing> {
  let stands = false;
  for (const rows of turnsOnto(a, b, size)) {
    stands = true;
    if (isStill(rows)) yield { axes: null, parts: b };
    else {
      const axes = difference('model.axes', 'the whole lies on another side: its axes are others', {
        measured: axesInWords(rows),
        allowed: 'x y z',
      });
      yield { axes, parts: rotated(b, rows) };
    }
  }
  if (!stands) yield { axes: null, parts: b };
}

/** The turns after which the other stands where one does; none at all first. */
function* turnsOnto(
  a: readonly WorldPart[],
  b: readonly WorldPart[],
  size: number,
): Generator<readonly number[]> {
  const cloud = cloudOf(b, toleranceOf(a, size));
  const samples = samplesOf(a);
  // Turning one back is turning the other, and needs one cloud for all turns.
  for (const rows of ROTATIONS)
    if (shareIn(cloud, turnVectors(samples, transposed(rows), 3)) >= 0.9) yield rows;
}

function isStill(rows: readonly number[]): boolean {
  return rows[0] === 1 && rows[4] === 1 && rows[8] === 1;
}

function transposed([a, b, c, d, e, f, g, h, i]: readonly number[]): number[] {
  return [a, d, g, b, e, h, c, f, i];
}

function axesInWords(rows: readonly number[]): string {
  return [0, 1, 2]
    .map((k) => {
      const axis = [0, 1, 2].find((j) => rows[k * 3 + j] !== 0) ?? 0;
      return `${rows[k * 3 + axis] < 0 ? '-' : ''}${'xyz'[axis]}`;
    })
    .join(' ');
}

const SAMPLES = 600;

/** Share of the places of one that are there in the other, over some of them. */
export function shareThere(a: readonly WorldPart[], b: readonly WorldPart[], size: number): number {
  return shareIn(cloudOf(b, toleranceOf(a, size)), samplesOf(a));
}

function cloudOf(parts: readonly WorldPart[], tolerance: number): Cloud {
  const cloud = new Cloud(tolerance);
  for (const { points } of parts)
    for (let offset = 0; offset < points.length; offset += 3)
      cloud.add(points[offset], points[offset + 1], points[offset + 2]);
  return cloud;
}

/** Points of some corners, at even distances. */
function samplesOf(parts: readonly WorldPart[]): Float64Array {
  const total = parts.reduce((sum, { points }) => sum + points.length / 3, 0);
  const step = Math.max(1, Math.floor(total / SAMPLES));
  const out: number[] = [];
  let index = 0;
  for (const { points } of parts)
    for (let offset = 0; offset < points.length; offset += 3, index += 1)
      if (index % step === 0) out.push(points[offset], points[offset + 1], points[offset + 2]);
  return Float64Array.from(out);
}

function shareIn(cloud: Cloud, points: Float64Array): number {
  let there = 0;
  for (let offset = 0; offset < points.length; offset += 3)
    if (cloud.find(points[offset], points[offset + 1], points[offset + 2]) >= 0) there += 1;
  return points.length === 0 ? 0 : (there * 3) / points.length;
}

function diagonal(parts: readonly WorldPart[]): number {
  const { min, max } = boundsOf(parts);
  return Math.hypot(...max.map((value, k) => value - min[k]));
}
