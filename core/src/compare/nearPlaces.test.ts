import { expect, it } from 'vitest';
import { createDocument, createMesh, createNode } from '../scene/document.ts';
import { compareGeometry } from './compareGeometry.ts';
import { GEOMETRY_TOLERANCE } from './extent.ts';
import { worldParts } from './worldParts.ts';

/** More than half of what counts as one place on a model of two metres: of three such points in a row the ends are two. */
const STEP = 0.6 * GEOMETRY_TOLERANCE.place * 2;

/** Three slats from one edge, whose ends lie so near to each other that the order decides who is counted to whom. */
function slats(order: readonly number[], uvs: readonly number[]) {
  const document = createDocument('gltf', '');
  const points = order.flatMap((slat) => [slat * STEP, 0, 0, 1, 1, slat, 0, 1, slat]);
  document.meshes.push(
    createMesh('Slats', {
      points: Float64Array.from(points),
      faceCounts: Uint32Array.of(3, 3, 3),
      faceCorners: Uint32Array.from(points.slice(0, 9).keys()),
      uvSets: [
        {
          name: 'map1',
          size: 2,
          domain: 'corner',
          values: Float64Array.from(order.flatMap((slat) => [uvs[slat], 0, 1, 0, 1, 1])),
          index: null,
        },
      ],
    }),
  );
  document.nodes.push(createNode('Slats', 'mesh', -1, { mesh: 0 }));
  return document;
}

/** What differs in UVs; which faces have these corners is asked elsewhere. */
const told = (a: ReturnType<typeof slats>, b: ReturnType<typeof slats>) =>
  compareGeometry(worldParts(a), worldParts(b), { names: true })
    .filter(({ code }) => code === 'shape.uv')
    .map(({ message }) => message);

it('UVs are the same in whichever order places come that nearly are one', () => {
  expect(told(slats([0, 1, 2], [0.1, 0.4, 0.8]), slats([2, 1, 0], [0.1, 0.4, 0.8]))).toEqual([]);
});

it('what a corner there has must be near all the same', () => {
  expect(told(slats([0, 1, 2], [0.1, 0.4, 0.8]), slats([2, 1, 0], [0.1, 0.5, 0.8]))).toEqual([
    'Slats: the UV set 1 differ at 2 corners',
  ]);
});
