import { type BufferGeometry, Mesh, type Object3D, Vector3 } from 'three';
import { TessellateModifier } from 'three/addons/modifiers/TessellateModifier.js';

/** Triangles that a displaced part may come to; more would not turn smoothly. */
const MOST_TRIANGLES = 160_000;
const MOST_ROUNDS = 6;
const cut = new WeakMap<BufferGeometry, BufferGeometry>();

/** The part cut fine enough to be displaced; kept, so that switching back and forth costs nothing. */
export function tessellated(geometry: BufferGeometry): BufferGeometry {
  let fine = cut.get(geometry);
  if (!fine) {
    const area = areaOf(geometry);
    const edge = Math.sqrt((area / MOST_TRIANGLES) * 4);
    fine = area > 0 ? new TessellateModifier(edge, MOST_ROUNDS).modify(geometry) : geometry;
    fine.userData.fine = true;
    cut.set(geometry, fine);
  }
  return fine;
}

function areaOf(geometry: BufferGeometry): number {
  const { position } = geometry.attributes;
  const { index } = geometry;
  const [a, b, c] = [new Vector3(), new Vector3(), new Vector3()];
  let area = 0;
  const count = index ? index.count : position.count;
  const entryAt = (i: number) => (index ? index.getX(i) : i);
  for (let i = 0; i + 2 < count; i += 3) {
    a.fromBufferAttribute(position, entryAt(i));
    b.fromBufferAttribute(position, entryAt(i + 1)).sub(a);
    c.fromBufferAttribute(position, entryAt(i + 2)).sub(a);
    area += b.cross(c).length() / 2;
  }
  return area;
}

/**
 * How far displacement pulls points apart that share a place and not a normal, in the unit of the amount: the
 * largest distance between the ends of two normals at one place, times the largest displacement.
 */
export function tearOf(parts: readonly Object3D[], reach: number): number {
  let worst = 0;
  for (const part of parts) {
    if (!(part instanceof Mesh)) continue;
    const geometry = part.geometry as BufferGeometry;
    const { position, normal } = geometry.attributes;
    if (!position || !normal) continue;
    const first = new Map<string, number>();
    const [a, b] = [new Vector3(), new Vector3()];
    for (let i = 0; i < position.count; i += 1) {
      const key = `${position.getX(i).toPrecision(6)} ${position.getY(i).toPrecision(6)} ${position.getZ(i).toPrecision(6)}`;
      const other = first.get(key);
      if (other === undefined) first.set(key, i);
      else
        worst = Math.max(
          worst,
          a.fromBufferAttribute(normal, i).distanceTo(b.fromBufferAttribute(normal, other)),
        );
    }
  }
  return worst * reach;
}
