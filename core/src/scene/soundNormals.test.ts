import { Document } from '@gltf-transform/core';
import { expect, it } from 'vitest';
import { addGeometry } from '../formats/gltf/writeScene.ts';
import { createDocument, createMesh, createNode, type Layer, type PolygonMesh, Y_UP } from './document.ts';
import { withSoundNormals } from './soundNormals.ts';

/** A square that looks along +z and one that looks along +x, by two normals of points. */
function corner(values: number[], more: Partial<Layer> = {}): PolygonMesh {
  return createMesh('corner', {
    points: new Float64Array([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 1, 0, -1, 1, 1, -1]),
    faceCounts: new Uint32Array([4, 4]),
    faceCorners: new Uint32Array([0, 1, 2, 3, 1, 4, 5, 2]),
    normals: { name: 'n', size: 3, domain: 'point', values: Float64Array.from(values), index: null, ...more },
  });
}

it('what points nowhere gets the normal of its face, and what points somewhere stays as long as it is', () => {
  const sound = corner([0, 0, 2, 0, 1, 0, 0, 1, 0, 0, 0, 1, 1, 0, 0, 1, 0, 0]);
  expect(withSoundNormals(sound)).toEqual({ mesh: sound, corners: 0 });
  expect(withSoundNormals(sound).mesh).toBe(sound);
  // The second point has none; both faces meet there. The fifth is no number.
  const { mesh, corners } = withSoundNormals(
    corner([0, 0, 2, 0, 0, 0, 0, 1, 0, 0, 0, 1, Number.NaN, 0, 0, 1, 0, 0]),
  );
  expect(corners).toBe(3);
  expect(mesh.normals?.domain).toBe('corner');
  expect([...(mesh.normals?.values ?? [])]).toEqual(
    [0, 0, 2, 0, 0, 1, 0, 1, 0, 0, 0, 1, 1, 0, 0, 1, 0, 0, 1, 0, 0, 0, 1, 0].map((value) =>
      expect.closeTo(value, 12),
    ),
  );
  const indexed = corner([0, 0, 0, 0, 1, 0], { domain: 'face', index: new Uint32Array([1, 0]) });
  expect([...(withSoundNormals(indexed).mesh.normals?.values ?? [])].slice(9, 15)).toEqual([
    0, 1, 0, 1, 0, 0,
  ]);
  expect(withSoundNormals({ ...sound, normals: null }).corners).toBe(0);
});

it('glTF gets them, and it is told how many had none', () => {
  const document = Object.assign(createDocument('gltf', 'made'), {
    axes: Y_UP,
    metresPerUnit: 1,
    unitStated: true,
  });
  document.meshes.push(corner([0, 0, 1, 0, 0, 0, 0, 0, 1, 0, 0, 1, 0, 0, 0, 0, 0, 0]));
  document.nodes.push(createNode('Corner', 'mesh', -1, { mesh: 0, materials: [] }));
  const gltf = new Document();
  gltf.createBuffer('a');
  const losses = addGeometry(
    gltf,
    document,
    () => null,
    (name) => name,
  );
  expect(losses).toEqual([{ code: 'gltf.normals', part: 'Corner', count: 4 }]);
  const normal = gltf.getRoot().listMeshes()[0].listPrimitives()[0].getAttribute('NORMAL');
  const found = Array.from({ length: normal?.getCount() ?? 0 }, (_, i) => normal?.getElement(i, [0, 0, 0]));
  for (const n of found) expect(Math.hypot(...(n ?? []))).toBeCloseTo(1, 6);
  // Both faces' own, beside those of the source.
  expect(found).toContainEqual([0, 0, 1]);
  expect(found).toContainEqual([1, 0, 0]);
});

it('a face in a line gets the same normal in every unit, whatever rounding leaves of its area', () => {
  const line = [0.1, 0.2, -4.98, 0.06, 0.21, -4.98, 0.02, 0.22, -4.98];
  const normalsIn = (scale: number) =>
    withSoundNormals(
      createMesh('sliver', {
        points: Float64Array.from(line, (value) => value * scale),
        faceCounts: Uint32Array.of(3),
        faceCorners: Uint32Array.of(0, 1, 2),
        normals: { name: 'n', size: 3, domain: 'point', values: new Float64Array(9), index: null },
      }),
    ).mesh.normals?.values;
  for (const scale of [1, 0.01, 1000])
    expect([...(normalsIn(scale) ?? [])]).toEqual([0, 0, 1, 0, 0, 1, 0, 0, 1]);
});
