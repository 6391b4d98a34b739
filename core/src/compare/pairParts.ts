import { remember } from '../remember.ts';
import type { SceneDocument } from '../scene/document.ts';
import { Cloud } from './cloud.ts';
import { type Pose, posedPoints, poseOf } from './posed.ts';
import { placedParts } from './worldParts.ts';

/** Points looked at per part. */
const POINTS = 400;

/** A part that both have, with some of its points and the places at rest where they are looked for. */
export interface RigPair {
  a: number;
  b: number;
  title: string;
  /** Point indices of the first; of the second, all that lie at the same place. */
  points: number[];
  others: number[][];
  rest: { a: Float64Array };
}

/** By name; those of one name meet where they stand, since occurrences may be counted in another order. */
export function pairParts(a: SceneDocument, b: SceneDocument): RigPair[] {
  const [poseA, poseB] = [restPose(a), restPose(b)];
  const byName = new Map<string, number>();
  const byBare = new Map<string, Set<number>>();
  for (const { name, bare, node } of placedParts(b)) {
    byName.set(name, node);
    const alike = byBare.get(bare) ?? new Set();
    byBare.set(bare, alike.add(node));
  }
  const repeated = new Map([...byBare].filter(([, nodes]) => nodes.size > 1));
  const boxInB = remember((node: number) => boxOf(posedPoints(b, node, poseB, pointsOf(b, node))));
  return placedParts(a).flatMap(({ name, bare, node }): RigPair[] => {
    const left = repeated.get(bare);
    const other = left
      ? nearestBox(boxOf(posedPoints(a, node, poseA, pointsOf(a, node))), left, boxInB)
      : byName.get(name);
    if (other === undefined) return [];
    left?.delete(other);
    const points = someOf(a.meshes[a.nodes[node].mesh].points.length / 3);
    const rest = posedPoints(a, node, poseA, points);
    return [
      {
        a: node,
        b: other,
        title: a.nodes[node].name,
        points,
        others: pointsAt(rest, posedPoints(b, other, poseB, pointsOf(b, other))),
        rest: { a: rest },
      },
    ];
  });
}

/** How far apart two boxes may be to be one, of their longest side. */
const SAME_PLACE = 1e-3;

/**
 * Parts alike by name, paired in some order, so that they meet where they stand: those that do stay as they
 * are, of the others each gets the nearest.
 */
export function pairByPlace(
  a: SceneDocument,
  b: SceneDocument,
  pairs: readonly (readonly [number, number])[],
): (readonly [number, number])[] {
  const [poseA, poseB] = [restPose(a), restPose(b)];
  const boxInA = remember((node: number) => boxOf(posedPoints(a, node, poseA, pointsOf(a, node))));
  const boxInB = remember((node: number) => boxOf(posedPoints(b, node, poseB, pointsOf(b, node))));
  const isMet = ([node, other]: readonly [number, number]) => {
    const box = boxInA(node);
    const side = Math.max(0, ...[0, 1, 2].map((axis) => box[axis + 3] - box[axis]));
    return boxesApart(box, boxInB(other)) <= SAME_PLACE * side;
  };
  const left = new Set(pairs.filter((pair) => !isMet(pair)).map(([, other]) => other));
  return pairs.map((pair): readonly [number, number] => {
    if (!left.has(pair[1]) && isMet(pair)) return pair;
    const nearest = nearestBox(boxInA(pair[0]), left, boxInB) ?? pair[1];
    left.delete(nearest);
    return [pair[0], nearest];
  });
}

/** Where the parts are placed; what bind matrices make of it is compared, not relied on. */
export function restPose(document: SceneDocument): Pose {
  return { ...poseOf(document, { name: '', start: 0, end: 0, tracks: [] }, 0), rigid: true };
}

/** The longest side of what holds all points. */
export function extent(points: Float64Array): number {
  const box = boxOf(points);
  return Math.max(0, ...[0, 1, 2].map((axis) => box[axis + 3] - box[axis]));
}

function pointsOf({ meshes, nodes }: SceneDocument, node: number): number[] {
  return Array.from({ length: meshes[nodes[node].mesh].points.length / 3 }, (_, i) => i);
}

function someOf(count: number): number[] {
  const step = Math.max(1, Math.ceil(count / POINTS));
  return Array.from({ length: Math.ceil(count / step) }, (_, i) => i * step);
}

/** Lowest x, y, z, then highest. */
type Box = readonly number[];

function boxOf(points: Float64Array): Box {
  const box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  points.forEach((value, index) => {
    const axis = index % 3;
    box[axis] = Math.min(box[axis], value);
    box[axis + 3] = Math.max(box[axis + 3], value);
  });
  return box;
}

function boxesApart(a: Box, b: Box): number {
  let apart = 0;
  for (let k = 0; k < 6; k += 1) apart = Math.max(apart, Math.abs(a[k] - b[k]));
  return apart;
}

function nearestBox(
  box: Box,
  parts: ReadonlySet<number>,
  boxOfPart: (node: number) => Box,
): number | undefined {
  let nearest: { node: number; apart: number } | null = null;
  for (const node of parts) {
    const apart = boxesApart(box, boxOfPart(node));
    if (nearest === null || apart < nearest.apart) nearest = { node, apart };
  }
  return nearest?.node;
}

/** For each of some places, which points of the other part lie there. */
function pointsAt(places: Float64Array, others: Float64Array): number[][] {
  const cloud = new Cloud(Math.max(1e-9, extent(others) * 2e-5));
  const lists: number[][] = [];
  for (let i = 0; i * 3 < others.length; i += 1) {
    const place = cloud.add(others[i * 3], others[i * 3 + 1], others[i * 3 + 2]);
    lists[place] ??= [];
    lists[place].push(i);
  }
  return Array.from(
    { length: places.length / 3 },
    (_, i) => lists[cloud.find(places[i * 3], places[i * 3 + 1], places[i * 3 + 2])] ?? [],
  );
}
