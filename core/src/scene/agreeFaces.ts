import type { PolygonMesh } from './document.ts';
import { placesOf } from './solids.ts';
import { faceNormal } from './triangulate.ts';

/**
 * Marks the faces that have to be turned so that neighbours agree about which side is out: a body that closes
 * looks outwards then, any other to the side that most of its area looks to now. Only edges that exactly two
 * faces share bind them.
 */
export function facesToTurn(mesh: PolygonMesh): Uint8Array {
  const { next, closed } = neighbours(mesh);
  const turned = new Uint8Array(mesh.faceCounts.length);
  const seen = new Uint8Array(mesh.faceCounts.length);
  const starts = startsOf(mesh);
  for (let first = 0; first < mesh.faceCounts.length; first += 1) {
    if (seen[first]) continue;
    seen[first] = 1;
    const body = [first];
    // What is added while it is walked is walked too.
    for (const face of body) {
      for (const { face: other, agrees } of next.get(face) ?? []) {
        if (seen[other]) continue;
        seen[other] = 1;
        turned[other] = agrees ? turned[face] : 1 - turned[face];
        body.push(other);
      }
    }
    if (looksInwards(mesh, body, { starts, turned, closed }))
      for (const face of body) turned[face] = 1 - turned[face];
  }
  return turned;
}

interface Neighbours {
  next: Map<number, { face: number; agrees: boolean }[]>;
  /** Per face whether each of its edges is shared by exactly two. */
  closed: Uint8Array;
}

/** Neighbours over edges that two faces share; they agree where each passes the edge the other way. */
function neighbours(mesh: PolygonMesh): Neighbours {
  const { faceCounts, faceCorners } = mesh;
  const places = placesOf(mesh.points);
  const edges = new Map<number, { face: number; forward: boolean }[]>();
  let start = 0;
  for (let face = 0; face < faceCounts.length; face += 1) {
    for (let i = 0; i < faceCounts[face]; i += 1) {
      const [from, to] = [
        places[faceCorners[start + i]],
        places[faceCorners[start + ((i + 1) % faceCounts[face])]],
      ];
      if (from === to) continue;
      const key = Math.min(from, to) * places.length + Math.max(from, to);
      const passes = edges.get(key);
      if (passes) passes.push({ face, forward: from < to });
      else edges.set(key, [{ face, forward: from < to }]);
    }
    start += faceCounts[face];
  }
  const next: Neighbours['next'] = new Map();
  const closed = new Uint8Array(faceCounts.length).fill(1);
  const link = (from: number, face: number, agrees: boolean) => {
    const list = next.get(from);
    if (list) list.push({ face, agrees });
    else next.set(from, [{ face, agrees }]);
  };
  for (const passes of edges.values()) {
    const [a, b] = passes;
    if (passes.length !== 2 || a.face === b.face) {
      for (const { face } of passes) closed[face] = 0;
      continue;
    }
    link(a.face, b.face, a.forward !== b.forward);
    link(b.face, a.face, a.forward !== b.forward);
  }
  return { next, closed };
}

function startsOf({ faceCounts }: PolygonMesh): Uint32Array {
  const starts = new Uint32Array(faceCounts.length);
  for (let face = 1; face < starts.length; face += 1) starts[face] = starts[face - 1] + faceCounts[face - 1];
  return starts;
}

/** By its volume where a body closes, else by whether more of its area would be turned than stay. */
function looksInwards(
  mesh: PolygonMesh,
  body: readonly number[],
  { starts, turned, closed }: { starts: Uint32Array; turned: Uint8Array; closed: Uint8Array },
): boolean {
  const { points, faceCounts, faceCorners } = mesh;
  const origin = faceCorners[starts[body[0]]] * 3;
  let volume = 0;
  let area = 0;
  for (const face of body) {
    const normal = faceNormal(mesh, starts[face], faceCounts[face]);
    const corner = faceCorners[starts[face]] * 3;
    const sign = turned[face] ? -1 : 1;
    let along = 0;
    for (let k = 0; k < 3; k += 1) along += normal[k] * (points[corner + k] - points[origin + k]);
    volume += sign * along;
    area += sign * Math.hypot(...normal);
  }
  return body.every((face) => closed[face]) && volume !== 0 ? volume < 0 : area < 0;
}
