import { expect, it } from 'vitest';
import { createDocument, createMesh, createNode, Y_UP } from '../scene/document.ts';
import { posedPoints } from './posed.ts';

it('a point that is asked for several times is moved by its shapes each time', () => {
  const document = Object.assign(createDocument('gltf', 'made'), { axes: Y_UP, metresPerUnit: 1 });
  const shape = {
    name: 'open',
    weight: 0,
    points: Uint32Array.of(1),
    offsets: Float64Array.of(0, 3, 0),
    normalOffsets: null,
  };
  document.meshes.push(
    createMesh('jib', {
      points: new Float64Array([0, 0, 0, 1, 0, 0, 1, 1, 0]),
      faceCounts: new Uint32Array([3]),
      faceCorners: new Uint32Array([0, 1, 2]),
      shapes: [shape],
    }),
  );
  document.nodes.push(createNode('Jib', 'mesh', -1, { mesh: 0, materials: [] }));
  const still = Float64Array.of(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1);
  const pose = { worlds: [still], weights: new Map([[0, [0.5]]]) } as unknown as Parameters<
    typeof posedPoints
  >[2];
  expect([...posedPoints(document, 0, pose, [1, 0, 1])]).toEqual([1, 1.5, 0, 0, 0, 0, 1, 1.5, 0]);
});
