import type { PolygonMesh } from '../scene/document.ts';
import { rootOf } from '../scene/rootOf.ts';

/** How the faces of a mesh hang together, points at one place counted as one. */
export interface Topology {
  /** The solid of each face: faces that share an edge are one. */
  solid: Uint32Array;
  solids: number;
  /** Per solid the edges that an odd number of faces meet at: where it does not close. */
  open: Uint32Array;
  /** Per solid the edges that two faces pass in the same direction: neighbours that disagree. */
  mixed: Uint32Array;
}

/**
 * Follows every edge once. Faces whose `skip` is not 0 lie upon others and are left out; each is a solid of
 * its own.
 */
export function walkEdges(mesh: PolygonMesh, places: Uint32Array, skip: Uint8Array): Topology {
  const { faceCounts, faceCorners } = mesh;
  const edges = createEdgeTable(faceCorners.length, places.length);
  const parent = Uint32Array.from(faceCounts, (_, face) => face);
  eachEdge(mesh, places, skip, (from, to, face) => {
    const second = edges.pass(from, to, face);
    if (second !== face) join(parent, second, face);
  });
  const { solid, solids } = numbered(parent);
  const [open, mixed] = [new Uint32Array(solids), new Uint32Array(solids)];
  edges.each((face, forward, backward) => {
    const fault = edgeFault(forward, backward);
    if (fault === EDGE_OPEN) open[solid[face]] += 1;
    else if (fault === EDGE_MIXED) mixed[solid[face]] += 1;
  });
  return { solid, solids, open, mixed };
}

/** What is amiss at the edges of a face. */
export const EDGE_OPEN = 1;
/** Mark of an edge that two faces pass in the same direction. */
export const EDGE_MIXED = 2;

/**
 * Per face `EDGE_OPEN` where no other closes one of its edges, and `EDGE_MIXED` where a neighbour disagrees
 * about the side.
 */
export function markEdges(mesh: PolygonMesh, places: Uint32Array, skip: Uint8Array): Uint8Array {
  const { faceCounts, faceCorners } = mesh;
  const edges = createEdgeTable(faceCorners.length, places.length);
  const marks = new Uint8Array(faceCounts.length);
  eachEdge(mesh, places, skip, (from, to, face) => edges.pass(from, to, face));
  eachEdge(mesh, places, skip, (from, to, face) => {
    marks[face] |= edges.faultAt(from, to);
  });
  return marks;
}

function eachEdge(
  { faceCounts, faceCorners }: PolygonMesh,
  places: Uint32Array,
  skip: Uint8Array,
  visit: (from: number, to: number, face: number) => void,
): void {
  let first = 0;
  for (let face = 0; face < faceCounts.length; face += 1) {
    const count = faceCounts[face];
    if (!skip[face]) {
      let from = places[faceCorners[first + count - 1]];
      for (let corner = first; corner < first + count; corner += 1) {
        const to = places[faceCorners[corner]];
        if (from !== to) visit(from, to, face);
        from = to;
      }
    }
    first += count;
  }
}

/** The same for one edge as for its faces, by how often it was passed each way. */
function edgeFault(forward: number, backward: number): number {
  const total = forward + backward;
  if (total % 2 === 1) return EDGE_OPEN;
  return total === 2 && forward !== backward ? EDGE_MIXED : 0;
}

/**
 * Open addressing over typed arrays: per edge how often it was passed each way, and a face that it belongs
 * to. Most edges are passed twice, so it begins with a place for each corner and grows where they are not.
 */
function createEdgeTable(corners: number, points: number) {
  let size = 16;
  while (size < corners) size *= 2;
  let table = emptyTable(size);
  let used = 0;
  // Edges of neighbouring points lie together; where many meet at one point, each goes its own way from
  // there.
  const find = (key: number, low: number, high: number): number => {
    const { keys } = table;
    const mask = keys.length - 1;
    let index = (low * 4) & mask;
    const step = stepOf(high);
    while (keys[index] !== key && keys[index] !== -1) index = (index + step) & mask;
    return index;
  };
  const grow = () => {
    const old = table;
    table = emptyTable(old.keys.length * 2);
    for (let i = 0; i < old.keys.length; i += 1) {
      const key = old.keys[i];
      if (key === -1) continue;
      const low = Math.floor(key / points);
      const index = find(key, low, key - low * points);
      table.keys[index] = key;
      table.faces[index] = old.faces[i];
      table.forward[index] = old.forward[i];
      table.backward[index] = old.backward[i];
    }
  };
  return {
    /** Counts one passing, and gives the first face that passed there. */
    pass(from: number, to: number, face: number): number {
      const low = from < to ? from : to;
      const high = from < to ? to : from;
      const key = low * points + high;
      let index = find(key, low, high);
      if (table.keys[index] === -1) {
        if (used > table.keys.length * 0.7) {
          grow();
          index = find(key, low, high);
        }
        used += 1;
        table.keys[index] = key;
        table.faces[index] = face;
      }
      if (from < to) table.forward[index] += 1;
      else table.backward[index] += 1;
      return table.faces[index];
    },
    faultAt(from: number, to: number): number {
      const low = from < to ? from : to;
      const high = from < to ? to : from;
      const index = find(low * points + high, low, high);
      return edgeFault(table.forward[index], table.backward[index]);
    },
    each(visit: (face: number, forward: number, backward: number) => void): void {
      const { keys, faces, forward, backward } = table;
      for (let index = 0; index < keys.length; index += 1)
        if (keys[index] !== -1) visit(faces[index], forward[index], backward[index]);
    },
  };
}

function emptyTable(size: number) {
  return {
    keys: new Float64Array(size).fill(-1),
    faces: new Uint32Array(size),
    forward: new Uint16Array(size),
    backward: new Uint16Array(size),
  };
}

/** An odd step, so that a table of a power of two is passed whole. */
function stepOf(number: number): number {
  const hash = Math.imul(number ^ (number >>> 15), 0x85ebca6b);
  return ((hash ^ (hash >>> 13)) & 0xffff) | 1;
}

function join(parent: Uint32Array, a: number, b: number): void {
  const [first, second] = [rootOf(parent, a), rootOf(parent, b)];
  if (first !== second) parent[Math.max(first, second)] = Math.min(first, second);
}

/** Solids are numbered by their first face. */
function numbered(parent: Uint32Array): { solid: Uint32Array; solids: number } {
  const solid = new Uint32Array(parent.length);
  let solids = 0;
  for (let face = 0; face < parent.length; face += 1) {
    const root = rootOf(parent, face);
    if (root === face) {
      solid[face] = solids;
      solids += 1;
    } else solid[face] = solid[root];
  }
  return { solid, solids };
}

/**
 * Faces upon each other: 0 for none, 1 for one that lies on an earlier face the same way round, 2 for the
 * other way round.
 */
export function findDoubled(mesh: PolygonMesh, places: Uint32Array, skip: Uint8Array): Uint8Array {
  const { faceCounts, faceCorners } = mesh;
  const doubled = new Uint8Array(faceCounts.length);
  let size = 16;
  while (size < faceCounts.length * 2) size *= 2;
  const slots = new Int32Array(size).fill(-1);
  const starts = new Uint32Array(faceCounts.length);
  for (let face = 0, first = 0; face < faceCounts.length; first += faceCounts[face], face += 1) {
    starts[face] = first;
    if (skip[face]) continue;
    const count = faceCounts[face];
    let [sum, product, least] = [count, 1, places.length];
    for (let corner = first; corner < first + count; corner += 1) {
      const place = places[faceCorners[corner]];
      if (place < least) least = place;
      const scattered = Math.imul(place + 1, 0x9e3779b1);
      sum = (sum + scattered) | 0;
      product = Math.imul(product, scattered | 1);
    }
    const step = stepOf(sum ^ product);
    for (let index = (least * 2) & (size - 1); ; index = (index + step) & (size - 1)) {
      const second = slots[index];
      if (second < 0) {
        slots[index] = face;
        break;
      }
      const way =
        faceCounts[second] === count
          ? sameFace(starts[second], first, count, (corner) => places[faceCorners[corner]])
          : 0;
      if (way === 0) continue;
      doubled[face] = way;
      break;
    }
  }
  return doubled;
}

/**
 * 1 where two faces pass the same places in the same order, 2 in the reverse order, 0 where they are others.
 */
function sameFace(a: number, b: number, count: number, place: (corner: number) => number): 0 | 1 | 2 {
  for (let turn = 0; turn < count; turn += 1) {
    if (place(b + turn) !== place(a)) continue;
    let [same, reverse] = [true, true];
    for (let i = 1; i < count && (same || reverse); i += 1) {
      const expected = place(a + i);
      if (place(b + ((turn + i) % count)) !== expected) same = false;
      if (place(b + ((turn - i + count) % count)) !== expected) reverse = false;
    }
    if (same) return 1;
    if (reverse) return 2;
  }
  return 0;
}
