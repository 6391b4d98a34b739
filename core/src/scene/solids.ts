import type { PolygonMesh } from './document.ts';

/**
 * The solid that each face belongs to: faces that share a place are one. Points that lie in the same place count as
 * one, since seams of UVs and normals part them without parting the solid. Solids are numbered by their first face.
 */
export function solidsOf(mesh: PolygonMesh): { solid: Uint32Array; count: number } {
  const places = placesOf(mesh.points);
  const parent = Uint32Array.from(places, (_, i) => i);
  const root = (at: number): number => {
    let top = at;
    while (parent[top] !== top) top = parent[top];
    for (let step = at; parent[step] !== top; ) {
      const next = parent[step];
      parent[step] = top;
      step = next;
    }
    return top;
  };
  let start = 0;
  for (const count of mesh.faceCounts) {
    const first = count > 0 ? root(places[mesh.faceCorners[start]]) : 0;
    for (let corner = start + 1; corner < start + count; corner += 1) parent[root(places[mesh.faceCorners[corner]])] = first;
    start += count;
  }
  const solid = new Uint32Array(mesh.faceCounts.length);
  const numbers = new Map<number, number>();
  start = 0;
  mesh.faceCounts.forEach((count, face) => {
    const top = count > 0 ? root(places[mesh.faceCorners[start]]) : 0;
    const number = numbers.get(top) ?? numbers.size;
    numbers.set(top, number);
    solid[face] = number;
    start += count;
  });
  return { solid, count: numbers.size };
}

/** For each point the first point that lies in exactly its place. */
export function placesOf(points: ArrayLike<number>): Uint32Array {
  const first = new Map<string, number>();
  const places = new Uint32Array(points.length / 3);
  for (let i = 0; i < places.length; i += 1) {
    const key = `${points[i * 3]} ${points[i * 3 + 1]} ${points[i * 3 + 2]}`;
    const known = first.get(key);
    places[i] = known ?? i;
    if (known === undefined) first.set(key, i);
  }
  return places;
}
