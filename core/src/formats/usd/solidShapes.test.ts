import { describe, expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import type { SceneDocument } from '../../scene/document.ts';
import { readUsd } from './readUsd.ts';

const HEAD = '#usda 1.0\n( defaultPrim = "Quay" metersPerUnit = 1 upAxis = "Z" )\n';
const SIDES = 32;
/** Area of a regular polygon of 32 corners on a circle of radius 1. */
const DISC = (SIDES / 2) * Math.sin((2 * Math.PI) / SIDES);

const read = (body: string): Promise<SceneDocument> =>
  readUsd(
    new TextEncoder().encode(`${HEAD}def Xform "Quay" { ${body} }`),
    'quay.usda',
    memorySource('quay', {}),
  );

async function shape(type: string, words = '') {
  const document = await read(`def ${type} "Bollard" { ${words} }`);
  const node = document.nodes.find(({ name }) => name === 'Bollard');
  return document.meshes[node?.mesh ?? -1];
}

type Mesh = Awaited<ReturnType<typeof shape>>;
const place = ({ points, faceCorners }: Mesh, corner: number) => [
  ...points.subarray(faceCorners[corner] * 3, faceCorners[corner] * 3 + 3),
];

const reachOf = ({ points }: Mesh, sign = 1) =>
  [0, 1, 2].map((axis) =>
    Math.max(...[...points].filter((_, i) => i % 3 === axis).map((value) => sign * value)),
  );

/** The volume over fans, by the divergence theorem; and how far each normal is from its face. */
function walk(mesh: Mesh) {
  let [first, volume, least] = [0, 0, 1];
  const edges = new Map<string, number>();
  for (const count of mesh.faceCounts) {
    const corners = Array.from({ length: count }, (_, i) => place(mesh, first + i));
    const [ox, oy, oz] = corners[0];
    let area = [0, 0, 0];
    for (let i = 1; i + 1 < count; i += 1) {
      const [a, b] = [corners[i], corners[i + 1]];
      const cross = (p: number[], q: number[]) => [
        p[1] * q[2] - p[2] * q[1],
        p[2] * q[0] - p[0] * q[2],
        p[0] * q[1] - p[1] * q[0],
      ];
      const [x, y, z] = cross(a, b);
      volume += (ox * x + oy * y + oz * z) / 6;
      const side = cross(
        a.map((value, k) => value - corners[0][k]),
        b.map((value, k) => value - corners[0][k]),
      );
      area = area.map((value, k) => value + side[k]);
    }
    for (let i = 0; i < count; i += 1) {
      const normal = [...(mesh.normals?.values.subarray((first + i) * 3, (first + i) * 3 + 3) ?? [])];
      expect(Math.hypot(...normal)).toBeCloseTo(1, 12);
      const along = normal.reduce((sum, value, k) => sum + value * area[k], 0) / Math.hypot(...area);
      least = Math.min(least, along);
      const [from, to] = [mesh.faceCorners[first + i], mesh.faceCorners[first + ((i + 1) % count)]];
      edges.set(`${from} ${to}`, (edges.get(`${from} ${to}`) ?? 0) + 1);
    }
    first += count;
  }
  const closed = [...edges].every(
    ([edge, count]) => count === 1 && edges.has(edge.split(' ').reverse().join(' ')),
  );
  return { volume, least, closed };
}

describe('bodies that USD states by a formula', () => {
  it.each([
    ['Cube', '', 8, [1, 1, 1]],
    ['Cube', 'double size = 3', 27, [1.5, 1.5, 1.5]],
    ['Cylinder', '', 2 * DISC, [1, 1, 1]],
    ['Cylinder', 'double height = 5\ndouble radius = 2', 20 * DISC, [2, 2, 2.5]],
    // A frustum of pyramids: h/3 of the sum of both areas and their geometric mean.
    ['Cylinder_1', 'double radiusTop = 0.5\ndouble height = 3', (1 + 0.25 + 0.5) * DISC, [1, 1, 1.5]],
    ['Cone', '', (2 * DISC) / 3, [1, 1, 1]],
    ['Cone', 'double height = 4\ndouble radius = 3', 12 * DISC, [3, 3, 2]],
  ])('%s %s has its volume and reach', async (type, words, volume, reach) => {
    const mesh = await shape(type, words);
    const seen = walk(mesh);
    expect(seen.volume).toBeCloseTo(volume, 9);
    expect(seen.closed).toBe(true);
    expect(seen.least).toBeGreaterThan(0.9);
    for (const sign of [1, -1]) reachOf(mesh, sign).forEach((far, k) => expect(far).toBeCloseTo(reach[k], 9));
  });

  it.each([
    ['Sphere', '', (4 / 3) * Math.PI, 1],
    ['Sphere', 'double radius = 3', 36 * Math.PI, 3],
    ['Capsule', '', Math.PI * 0.25 + (4 / 3) * Math.PI * 0.125, 1],
    ['Capsule', 'double height = 4\ndouble radius = 1', 4 * Math.PI + (4 / 3) * Math.PI, 3],
  ])('%s %s is a little smaller than what it stands for', async (type, words, volume, reach) => {
    const mesh = await shape(type, words);
    const seen = walk(mesh);
    expect(seen.volume / volume).toBeGreaterThan(0.98);
    expect(seen.volume).toBeLessThan(volume);
    expect(seen.closed).toBe(true);
    expect(seen.least).toBeGreaterThan(0.98);
    expect(reachOf(mesh)[2]).toBeCloseTo(reach, 9);
  });

  it('joins the two balls of a capsule where the side touches both', async () => {
    const mesh = await shape(
      'Capsule_1',
      'double height = 2\ndouble radiusBottom = 1\ndouble radiusTop = 0.5',
    );
    const heights = [...mesh.points].filter((_, i) => i % 3 === 2);
    expect([Math.min(...heights), Math.max(...heights)]).toEqual([-2, 1.5]);
    // The side leans by asin((1 - 0.5) / 2): its seams lie a quarter of each radius above the centres.
    expect(heights.some((height) => Math.abs(height - (-1 + 0.25)) < 1e-9)).toBe(true);
    expect(heights.some((height) => Math.abs(height - (1 + 0.125)) < 1e-9)).toBe(true);
    expect(walk(mesh).least).toBeGreaterThan(0.98);
  });

  it.each([
    ['X', 0],
    ['Y', 1],
    ['Z', 2],
  ])('stand along %s', async (axis, k) => {
    const cone = await shape('Cone', `uniform token axis = "${axis}"\ndouble height = 6`);
    const tip = [...cone.points].findIndex((value, i) => i % 3 === k && value === 3);
    expect([0, 1, 2].map((c) => cone.points[tip - k + c])).toEqual([0, 1, 2].map((c) => (c === k ? 3 : 0)));
    expect(walk(cone).volume).toBeCloseTo(2 * DISC, 9);
    const plane = await shape('Plane', `uniform token axis = "${axis}"\ndouble width = 6\ndouble length = 4`);
    // Width along x, but along z where the plane looks along x; length along y, but along z for y.
    const reach = { X: [0, 2, 3], Y: [3, 0, 2], Z: [3, 2, 0] }[axis];
    expect(reachOf(plane)).toEqual(reach);
    expect([...(plane.normals?.values.subarray(0, 3) ?? [])]).toEqual([0, 1, 2].map((c) => Number(c === k)));
    expect(walk(plane).least).toBeCloseTo(1, 12);
  });

  it('keep their material, colour and side', async () => {
    const document = await read(`
      def Material "Brass" {}
      def Plane "Sign" { rel material:binding = </Quay/Brass> }
      def Sphere "Buoy" { color3f[] primvars:displayColor = [(0.5, 0.25, 0)] uniform token orientation = "leftHanded" }
      def Sphere "Float" { color3f[] primvars:displayColor = [(0, 0, 1)] }`);
    const [sign, buoy, float] = ['Sign', 'Buoy', 'Float'].map((name) => {
      const node = document.nodes.find((other) => other.name === name);
      return { mesh: document.meshes[node?.mesh ?? -1], materials: node?.materials };
    });
    expect(sign.materials).toEqual([0]);
    expect(document.materials[0].doubleSided).toBe(true);
    expect([...buoy.mesh.colours[0].values]).toEqual([0.5, 0.25, 0]);
    expect(new Set(buoy.mesh.colours[0].index)).toEqual(new Set([0]));
    expect([...float.mesh.colours[0].values]).toEqual([0, 0, 1]);
    expect(walk(buoy.mesh).volume).toBeCloseTo(-walk(float.mesh).volume, 9);
    expect(document.remarks.filter(({ code }) => code === 'read.notCarried')).toMatchObject([
      { subject: 'formulas of Plane prims', count: 1 },
      { subject: 'formulas of Sphere prims', count: 2 },
    ]);
  });
});
