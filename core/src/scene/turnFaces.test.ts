import { expect, it } from 'vitest';
import { changeParts } from './changeParts.ts';
import { createDocument, createMesh, createNode } from './document.ts';

it('faces that are turned turn the normals that looked along with them, corner by corner', () => {
  const document = createDocument('obj', 'made');
  const mesh = createMesh('sail', {
    points: Float64Array.of(0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0),
    faceCounts: Uint32Array.of(4),
    faceCorners: Uint32Array.of(0, 1, 2, 3),
  });
  // Two lie at two corners each; the face looks along +Z.
  const [straight, leaning] = [
    [0, 0, 1],
    [0.6, 0, 0.8],
  ];
  const values = Float64Array.from([...straight, ...leaning]);
  mesh.normals = { name: 'n', size: 3, domain: 'corner', values, index: Uint32Array.of(0, 1, 0, 1) };
  document.meshes.push(mesh);
  document.nodes.push(createNode('Sail', 'mesh', -1, { mesh: 0 }));
  const { meshes, nodes } = changeParts(
    document,
    ['Sail'],
    [{ do: 'turnFaces', parts: ['Sail'] }],
    () => null,
  ).document;
  const { normals, faceCorners } = meshes[nodes[0].mesh];
  const turned = Array.from(faceCorners, (point, corner) => {
    const entry = normals?.index?.[corner] ?? -1;
    return [point, ...(normals?.values.slice(entry * 3, entry * 3 + 3) ?? [])];
  });
  expect(turned.sort(([a], [b]) => a - b)).toEqual([
    [0, -0, -0, -1],
    [1, -0.6, -0, -0.8],
    [2, -0, -0, -1],
    [3, -0.6, -0, -0.8],
  ]);
});
