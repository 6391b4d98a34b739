import type { PolygonMesh } from './document.ts';
import { rootOf } from './rootOf.ts';

/**
 * The solid that each face belongs to: faces that share a place are one. Points that lie in the same place
 * count as one, since seams of UVs and normals part them without parting the solid. Solids are numbered by
 * their first face.
 */
export function solidsOf(
  mesh: PolygonMesh,
  places = placesOf(mesh.points),
): { solid: Uint32Array; count: number } {
  const parent = Uint32Array.from(places, (_, i) => i);
  const root = (index: number) => rootOf(parent, index);
  let start = 0;
  for (const count of mesh.faceCounts) {
    const first = count > 0 ? root(places[mesh.faceCorners[start]]) : 0;
    for (let corner = start + 1; corner < start + count; corner += 1)
      parent[root(places[mesh.faceCorners[corner]])] = first;
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

/** For each point the first point that lies in exactly its place. One pass over a hash table. */
export function placesOf(points: ArrayLike<number>): Uint32Array {
  const count = Math.floor(points.length / 3);
  let size = 16;
  while (size < count * 2) size *= 2;
  const slots = new Int32Array(size).fill(-1);
  const places = new Uint32Array(count);
  const number = new Float64Array(1);
  const halves = new Uint32Array(number.buffer);
  for (let point = 0; point < count; point += 1) {
    let hash = 0;
    for (let k = 0; k < 3; k += 1) {
      // Adding 0 makes -0 the place that it is.
      number[0] = points[point * 3 + k] + 0;
      hash = Math.imul(hash ^ halves[0], 0x9e3779b1) ^ Math.imul(halves[1], 0x85ebca6b);
      hash ^= hash >>> 15;
    }
    for (let index = hash & (size - 1); ; index = (index + 1) & (size - 1)) {
      const other = slots[index];
      if (other < 0) {
        slots[index] = point;
        places[point] = point;
        break;
      }
      const [a, b] = [other * 3, point * 3];
      if (points[a] === points[b] && points[a + 1] === points[b + 1] && points[a + 2] === points[b + 2]) {
        places[point] = other;
        break;
      }
    }
  }
  return places;
}
