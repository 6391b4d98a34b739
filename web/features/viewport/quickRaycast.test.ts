import { BufferGeometry, Mesh, MeshBasicMaterial, Raycaster, TorusKnotGeometry, Vector3 } from 'three';
import { describe, expect, it } from 'vitest';
import { quickenRaycasts } from './quickRaycast.ts';

const SIDES = [new MeshBasicMaterial(), new MeshBasicMaterial()];

/** A knot of 20,000 faces in two materials, moved and turned. */
function knot(): Mesh {
  const geometry = new TorusKnotGeometry(1, 0.3, 500, 20);
  geometry.addGroup(0, 30_000, 0);
  geometry.addGroup(30_000, 30_000, 1);
  const mesh = new Mesh(geometry, SIDES);
  mesh.position.set(3, -1, 2);
  mesh.rotation.set(0.4, 1.1, -0.3);
  mesh.updateMatrixWorld();
  return mesh;
}

describe('rays into a large mesh', () => {
  it('meet the same faces at the same places as one that looks at each', () => {
    const [plain, quick] = [knot(), knot()];
    const order = [...(quick.geometry.index?.array ?? [])];
    quickenRaycasts(quick);
    let met = 0;
    for (let i = 0; i < 200; i += 1) {
      const from = new Vector3(3 + 4 * Math.sin(i), -1 + 3 * Math.cos(1.7 * i), 8);
      const ray = new Raycaster(
        from,
        new Vector3(3 + Math.cos(3 * i), -1 + Math.sin(5 * i), 2).sub(from).normalize(),
      );
      const [a, b] = [ray.intersectObject(plain), ray.intersectObject(quick)];
      expect(b.map(({ faceIndex, face }) => [faceIndex, face?.materialIndex])).toEqual(
        a.map(({ faceIndex, face }) => [faceIndex, face?.materialIndex]),
      );
      a.forEach(({ point, uv }, k) => {
        expect(b[k].point.distanceTo(point)).toBeLessThan(1e-9);
        expect(b[k].uv?.distanceTo(uv as NonNullable<typeof uv>)).toBeLessThan(1e-6);
      });
      met += a.length;
    }
    expect(met).toBeGreaterThan(100);
    expect([...(quick.geometry.index?.array ?? [])]).toEqual(order);
    expect(quick.geometry).toHaveProperty('boundsTree');
  });

  it('make no tree of what they pass by, nor of what is small', () => {
    const far = knot();
    quickenRaycasts(far);
    new Raycaster(new Vector3(0, 100, 0), new Vector3(0, 1, 0)).intersectObject(far);
    expect(far.geometry).not.toHaveProperty('boundsTree');
    const small = new Mesh(new TorusKnotGeometry(1, 0.3, 20, 8), SIDES[0]);
    quickenRaycasts(small);
    const ray = new Raycaster(new Vector3(1.3, 0, 5), new Vector3(0, 0, -1));
    expect(ray.intersectObject(small).length).toBe(
      ray.intersectObject(new Mesh(small.geometry, SIDES[0])).length,
    );
    expect(small.geometry).not.toHaveProperty('boundsTree');
    expect(() => {
      const empty = new Mesh(new BufferGeometry(), SIDES[0]);
      quickenRaycasts(empty);
      ray.intersectObject(empty);
    }).not.toThrow();
  });
});
