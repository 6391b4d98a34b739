import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { riggedCrane } from '../test/rigged.ts';
import { createMesh, type PolygonMesh } from './document.ts';
import { subMesh } from './submesh.ts';
import { triangulate } from './triangulate.ts';
import { fromGltfTransform, toGltfTransform } from './uvTransform.ts';

const polygon = (points: number[][]): PolygonMesh =>
  createMesh('face', {
    points: Float64Array.from(points.flat()),
    faceCounts: Uint32Array.of(points.length),
    faceCorners: Uint32Array.from(points.keys()),
  });

/** Twice the area of each triangle in the plane z = 0; positive where it winds as the polygon does. */
function areas(mesh: PolygonMesh): number[] {
  const { corners } = triangulate(mesh);
  const entryAt = (corner: number) =>
    mesh.points.subarray(mesh.faceCorners[corner] * 3, mesh.faceCorners[corner] * 3 + 2);
  return Array.from({ length: corners.length / 3 }, (_, t) => {
    const [a, b, c] = [0, 1, 2].map((k) => entryAt(corners[t * 3 + k]));
    return (b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1]);
  });
}

const sum = (list: readonly number[]) => list.reduce((total, component) => total + component, 0);

describe('polygons cut into triangles', () => {
  it('keep area and winding where they are not convex', () => {
    // An arrow head: the square of 4 without the triangle cut into its side.
    const arrow = polygon([
      [0, 0, 0],
      [4, 0, 0],
      [2, 2, 0],
      [4, 4, 0],
      [0, 4, 0],
    ]);
    const cut = areas(arrow);
    expect(cut).toHaveLength(3);
    for (const area of cut) expect(area).toBeGreaterThanOrEqual(0);
    expect(sum(cut) / 2).toBeCloseTo(16 - 4, 12);
    // The other way round every triangle winds the other way.
    const turned = createMesh('face', {
      points: arrow.points,
      faceCounts: Uint32Array.of(5),
      faceCorners: Uint32Array.of(4, 3, 2, 1, 0),
    });
    for (const area of areas(turned)) expect(area).toBeLessThanOrEqual(0);
  });

  it('cut a quad that is not convex inside it, and a convex one along the shorter diagonal', () => {
    const dart = areas(
      polygon([
        [0, 0, 0],
        [4, 0, 0],
        [1, 1, 0],
        [0, 4, 0],
      ]),
    );
    for (const area of dart) expect(area).toBeGreaterThan(0);
    expect(sum(dart) / 2).toBeCloseTo(4, 12);
    const kite = triangulate(
      polygon([
        [0, 0, 0],
        [5, -1, 0],
        [10, 0, 0],
        [5, 1, 0],
      ]),
    );
    // The short way is from 1 to 3.
    for (let t = 0; t < 2; t += 1) {
      const own = [...kite.corners.subarray(t * 3, t * 3 + 3)];
      expect(own).toContain(1);
      expect(own).toContain(3);
    }
  });

  it('give n - 2 triangles of each face, whatever it is, and none of less', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 9 }), { minLength: 1, maxLength: 6 }),
        fc.integer({ min: 1, max: 99 }),
        (counts, seed) => {
          const total = sum(counts);
          const points = Float64Array.from({ length: 30 }, (_, i) => Math.sin(i * seed) * 5);
          const corners = Uint32Array.from({ length: total }, (_, i) => (i * seed) % 10);
          const { faces, corners: cut } = triangulate(
            createMesh('m', { points, faceCounts: Uint32Array.from(counts), faceCorners: corners }),
          );
          counts.forEach((count, face) =>
            expect(faces.filter((one) => one === face)).toHaveLength(Math.max(0, count - 2)),
          );
          expect(cut.every((corner) => corner < total)).toBe(true);
        },
      ),
    );
  });
});

describe('placements of images', () => {
  it('put the same texel under the same point, whichever way v grows', () => {
    fc.assert(
      fc.property(
        fc.record({
          offset: fc.tuple(
            fc.double({ min: -2, max: 2, noNaN: true }),
            fc.double({ min: -2, max: 2, noNaN: true }),
          ),
          scale: fc.tuple(
            fc.double({ min: 0.1, max: 4, noNaN: true }),
            fc.double({ min: 0.1, max: 4, noNaN: true }),
          ),
          rotation: fc.double({ min: -3, max: 3, noNaN: true }),
        }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (transform, u, v) => {
          // Ours: turned counter-clockwise with v upwards.
          const [x, y] = [u * transform.scale[0], v * transform.scale[1]];
          const [c, s] = [Math.cos(transform.rotation), Math.sin(transform.rotation)];
          const ours = [x * c - y * s + transform.offset[0], x * s + y * c + transform.offset[1]];
          // KHR_texture_transform: translation, rotation (its matrix as the extension prints it), scale, on v
          // downwards.
          const g = toGltfTransform(transform);
          const [gx, gy] = [u * g.scale[0], (1 - v) * g.scale[1]];
          const [gc, gs] = [Math.cos(g.rotation), Math.sin(g.rotation)];
          const theirs = [gx * gc + gy * gs + g.offset[0], -gx * gs + gy * gc + g.offset[1]];
          expect(theirs[0]).toBeCloseTo(ours[0], 9);
          expect(1 - theirs[1]).toBeCloseTo(ours[1], 9);
          const back = fromGltfTransform(g);
          back.offset.forEach((component, k) => expect(component).toBeCloseTo(transform.offset[k], 9));
        },
      ),
    );
  });
});

describe('a piece of a mesh', () => {
  it('has the hard edges of its points, several from one point among them', () => {
    const mesh = createMesh('fan', {
      points: Float64Array.of(0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 5, 5, 5),
      faceCounts: Uint32Array.of(3, 3, 3),
      faceCorners: Uint32Array.of(0, 1, 2, 0, 2, 3, 2, 3, 4),
    });
    const cut = (...keep: number[]) =>
      subMesh(
        { ...mesh, hardEdges: Uint32Array.of(0, 1, 0, 2, 3, 4, 0, 3, 2, 3) },
        Uint8Array.from(keep),
        'piece',
      );
    const { hardEdges, points } = cut(1, 1, 0);
    expect(points.length).toBe(12);
    expect([...(hardEdges ?? [])]).toEqual([0, 1, 0, 2, 0, 3, 2, 3]);
    // Of the last face alone: points 2, 3 and 4 become 0, 1 and 2.
    expect([...(cut(0, 0, 1).hardEdges ?? [])]).toEqual([0, 1, 1, 2]);
  });

  it('has the shapes of its points, with the normals that they turn where there are any', () => {
    const [mesh] = riggedCrane().meshes;
    // The second quad: points 2 to 5, of which the first shape moves 2 and 3, the second none.
    const piece = subMesh(mesh, Uint8Array.of(0, 1, 0), 'middle');
    const places = [...piece.points].flatMap((_, i, all) => (i % 3 === 0 ? [all.slice(i, i + 3)] : []));
    expect(places).toEqual([
      [0, 1, 0],
      [0.4, 1, 0],
      [0.4, 2, 0.1],
      [0, 2, 0.1],
    ]);
    const [bulge, sag] = piece.shapes;
    expect([[...bulge.points], [...bulge.offsets]]).toEqual([
      [0, 1],
      [-0.2, 0, 0.05, 0.2, 0, 0.05],
    ]);
    expect([...(bulge.normalOffsets ?? [])]).toEqual([-0.5, 0, 0, 0.5, 0, 0]);
    expect([sag.points.length, sag.offsets.length, sag.normalOffsets]).toEqual([0, 0, null]);
  });
});
