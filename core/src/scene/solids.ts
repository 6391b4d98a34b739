import type { PolygonMesh } from './document.ts';

/**
 * The solid that each face belongs to: faces that share a place are one. Points that lie in the same place count as
 * one, since seams of UVs and normals part them without parting the solid. Solids are numbered by their first face.
 */
export function solidsOf(mesh: PolygonMesh): { solid: Uint32Array; count: number } {
  const places = placesOf(mesh.points);
  const parent = Uint32Array.from(places, (_, i) => i);
  const root = (index: number): number => {
    let top = index;
    while (parent[top] !== top) top = parent[top];
    for (let step = index; parent[step] !== top; ) {
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
  const count = points.length / 3;
  const before = (a: number, b: number) => points[a * 3] - points[b * 3] || points[a * 3 + 1] - points[b * 3 + 1] || points[a * 3 + 2] - points[b * 3 + 2];
  const order = Uint32Array.from({ length: count }, (_, i) => i).sort((a, b) => before(a, b) || a - b);
  const places = new Uint32Array(count);
  order.forEach((point, i) => {
    places[point] = i > 0 && before(order[i - 1], point) === 0 ? places[order[i - 1]] : point;
  });
  return places;
}
