import type { Clip, SceneDocument, SceneNode } from '../scene/document.ts';
import type { Matrix4 } from '../scene/matrix.ts';
import { normalised } from '../scene/vectors.ts';
import { type Difference, difference } from './difference.ts';
import { loneNodes } from './loneNodes.ts';
import type { RigPair } from './pairParts.ts';
import { type Pose, posedPoints, poseOf } from './posed.ts';

/** Moments looked at per clip. */
export const MOMENTS = [0, 0.21, 0.5, 0.83, 1] as const;
/** Points looked at per part where both have a key, and how many keys, of nodes taken together, at most. */
const POINTS_AT_KEYS = 8;
const MOST_KEYS = 240;
const MOST_NODES_AT_KEYS = 400_000;
/** Seconds within which two keys are at one time. */
const KEY_APART = 1e-4;

/** A document in one of its poses. */
export interface Posed {
  document: SceneDocument;
  pose: Pose;
}

/** A document and one of its clips. */
export interface Moving {
  document: SceneDocument;
  clip: Clip;
}

/**
 * The largest distance of a part's points in two poses; each point takes the nearest of those that share its
 * place at rest.
 */
export function apartIn(a: Posed, b: Posed, { a: nodeA, b: nodeB, points, others }: RigPair): number {
  const first = posedPoints(a.document, nodeA, a.pose, points);
  const flat = others.flat();
  const second = posedPoints(b.document, nodeB, b.pose, flat);
  let [most, index] = [0, 0];
  others.forEach((list, i) => {
    let nearest = list.length === 0 ? 0 : Infinity;
    for (let j = 0; j < list.length; j += 1, index += 1) {
      const distance = Math.hypot(
        first[i * 3] - second[index * 3],
        first[i * 3 + 1] - second[index * 3 + 1],
        first[i * 3 + 2] - second[index * 3 + 2],
      );
      nearest = Math.min(nearest, distance);
    }
    most = Math.max(most, nearest);
  });
  return most;
}

/** From the first key to the last: files state other starts and ends for the same keys. */
export function spanOf({ tracks }: Clip): [number, number] {
  let [start, end] = [Infinity, -Infinity];
  for (const { times } of tracks) {
    if (times.length === 0) continue;
    start = Math.min(start, times[0]);
    end = Math.max(end, times[times.length - 1]);
  }
  return end >= start ? [start, end] : [0, 0];
}

/**
 * Compares where everything is at five moments and, with fewer points, at the keys that both clips have: parts by
 * their points, what has none by its place, cameras and lamps by where they look. `share` is how far apart they may be,
 * of the size of the whole or, of what stands farther out, of its distance.
 */
export function comparePoses(
  a: Moving,
  b: Moving,
  pairs: readonly RigPair[],
  { share, size }: { share: number; size: number },
): Difference[] {
  const [[startA, endA], [startB]] = [spanOf(a.clip), spanOf(b.clip)];
  const worst = new Map<string, { apart: number; allowed: number; at: number }>();
  const aside = new Map<string, { apart: number; at: number }>();
  const nodes = pairLoneNodes(a.document, b.document);
  const views = pairViews(a.document, b.document);
  const look = (time: number, looked: readonly RigPair[]) => {
    const first = { document: a.document, pose: poseOf(a.document, a.clip, startA + time) };
    const second = { document: b.document, pose: poseOf(b.document, b.clip, startB + time) };
    const tell = (title: string, apart: number, reach: number) => {
      const allowed = share * reach;
      if (apart > Math.max(allowed, worst.get(title)?.apart ?? 0))
        worst.set(title, { apart, allowed, at: time });
    };
    for (const pair of looked) tell(pair.title, apartIn(first, second, pair), size);
    for (const pair of nodes) {
      const [one, two] = placesOf(first, second, pair);
      // A camera may stand far from a small thing.
      tell(
        pair.title,
        Math.hypot(...one.map((value, k) => value - two[k])),
        Math.max(size, Math.hypot(...one)),
      );
    }
    for (const pair of views) {
      const apart = aimApart(first, second, pair);
      if (apart > Math.max(share, aside.get(pair.title)?.apart ?? 0))
        aside.set(pair.title, { apart, at: time });
    }
  };
  for (const moment of MOMENTS) look((endA - startA) * moment, pairs);
  const few = pairs.map(withFewPoints);
  const most = Math.min(MOST_KEYS, Math.ceil(MOST_NODES_AT_KEYS / Math.max(1, a.document.nodes.length)));
  for (const time of thinned(sharedKeys(a.clip, b.clip), most)) look(time, few);
  const told = (part: string, at: number, words: string) =>
    `${a.clip.name}: at ${at.toFixed(2)} s ${part} ${words}`;
  return [
    ...[...worst].map(([part, { apart, allowed, at }]) =>
      difference('rig.clip', told(part, at, `is ${apart.toPrecision(3)} m elsewhere`), {
        part,
        measured: apart,
        allowed,
      }),
    ),
    ...[...aside].map(([part, { apart, at }]) => {
      const degrees = (Math.asin(Math.min(1, apart / 2)) * 360) / Math.PI;
      return difference('rig.clip', told(part, at, `looks elsewhere, by ${degrees.toPrecision(3)} degrees`), {
        part,
        measured: apart,
        allowed: share,
      });
    }),
  ];
}

function withFewPoints(pair: RigPair): RigPair {
  const places = thinned([...pair.points.keys()], POINTS_AT_KEYS);
  return {
    ...pair,
    points: places.map((place) => pair.points[place]),
    others: places.map((place) => pair.others[place]),
  };
}

/** Times from the first key on at which both clips have a key; between keys formats go their own ways. */
function sharedKeys(a: Clip, b: Clip): number[] {
  const [first, second] = [a, b].map((clip) => {
    const [start] = spanOf(clip);
    return new Set(clip.tracks.flatMap(({ times }) => Array.from(times, (time) => toTick(time - start))));
  });
  return [...first]
    .filter((tick) => [tick - 1, tick, tick + 1].some((near) => second.has(near)))
    .sort((x, y) => x - y)
    .map((tick) => tick * KEY_APART);
}

function toTick(time: number): number {
  return Math.round(time / KEY_APART);
}

/** So many of a list at most, evenly, first and last among them. */
function thinned<T>(list: readonly T[], most: number): T[] {
  if (list.length <= most) return [...list];
  return Array.from(
    { length: most },
    (_, i) => list[Math.round((i * (list.length - 1)) / Math.max(1, most - 1))],
  );
}

/** A camera, bone or group that both have, by a name of its own. */
interface NodePair {
  title: string;
  a: number;
  b: number;
}

function pairLoneNodes(a: SceneDocument, b: SceneDocument): NodePair[] {
  const bare = ({ mesh }: SceneNode) => mesh < 0;
  const others = loneNodes(b, bare);
  return [...loneNodes(a, bare)].flatMap(([name, node]) => {
    const other = others.get(name);
    return other === undefined ? [] : [{ title: a.nodes[node].name, a: node, b: other }];
  });
}

function placesOf(a: Posed, b: Posed, pair: NodePair): number[][] {
  return [a.pose.worlds[pair.a], b.pose.worlds[pair.b]].map((world) => [...world.subarray(12, 15)]);
}

/** Cameras and lamps that look somewhere, by names that one of them alone has. */
function pairViews(a: SceneDocument, b: SceneDocument): (NodePair & { axes: number[] })[] {
  const looks = (document: SceneDocument) => (node: SceneNode) =>
    node.camera >= 0 || AIMED.has(document.lights[node.light]?.kind);
  const others = loneNodes(b, looks(b));
  return [...loneNodes(a, looks(a))].flatMap(([name, node]) => {
    const other = others.get(name);
    // Only of cameras it counts what is up.
    const axes = a.nodes[node].camera >= 0 ? [8, 4] : [8];
    return other === undefined ? [] : [{ title: a.nodes[node].name, a: node, b: other, axes }];
  });
}

const AIMED: ReadonlySet<string | undefined> = new Set(['spot', 'directional', 'area']);

/** How far apart the ends of what they look along lie, in shares of its length. */
function aimApart(a: Posed, b: Posed, { a: nodeA, b: nodeB, axes }: NodePair & { axes: number[] }): number {
  const [first, second] = [a.pose.worlds[nodeA], b.pose.worlds[nodeB]];
  const along = (world: Matrix4, from: number) =>
    normalised(world.subarray(from, from + 3) as unknown as number[]);
  return Math.max(
    ...axes.map((from) => {
      const [one, two] = [along(first, from), along(second, from)];
      return Math.hypot(...one.map((value, k) => value - two[k]));
    }),
  );
}
