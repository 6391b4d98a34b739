import { expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import {
  createDocument,
  createNode,
  identityTransform,
  type SceneDocument,
  type TransformParts,
} from '../../scene/document.ts';
import { localMatrix } from '../../scene/matrix.ts';
import { writeModel } from '../writeModel.ts';
import { readUsd } from './readUsd.ts';

function quay(parts: Partial<TransformParts>): SceneDocument {
  const document = createDocument('usd', 'made');
  document.nodes.push(
    createNode('crane', 'group', -1, {
      transform: { ...identityTransform(), translation: [1, 2, 3], rotation: [10, 20, 30], ...parts },
    }),
  );
  return document;
}

/** Where the node is after writing and reading, and the scale as it is written. */
async function written(document: SceneDocument) {
  const bytes = writeModel(document, 'quay.usda', {}).files.get('quay.usda') as Uint8Array;
  const back = await readUsd(bytes, 'quay.usda', memorySource('quay', {}));
  const node = back.nodes.find(({ name }) => name === 'crane');
  const [, scale] = /xformOp:scale = \(([^)]*)\)/.exec(new TextDecoder().decode(bytes)) ?? [];
  return {
    matrix: localMatrix(node?.transform ?? identityTransform()),
    scale: scale?.split(', ').map(Number),
  };
}

it.each<[string, Partial<TransformParts>, number[]]>([
  ['as it is', { scale: [-1, 2, 3] }, [-1, 2, 3]],
  ['in another order', { scale: [-1, -2, -3], rotationOrder: 'ZXY' }, [-1, 2, 3]],
  ['along all axes', { scale: [-1, -2, -3] }, [-1, 2, 3]],
  [
    'behind fixed turns',
    { scale: [-1, -2, -3], preRotation: [0, 0, 40], postRotation: [15, 0, 0] },
    [-1, 2, 3],
  ],
  ['about a pivot', { scale: [-1, -2, -3], rotationPivot: [1, 0, 2], scalingPivot: [1, 0, 2] }, [-1, 2, 3]],
])('a mirroring %s stands where it stood, along one axis', async (_, parts, scale) => {
  const document = quay(parts);
  const back = await written(document);
  const expected = localMatrix(document.nodes[0].transform);
  back.matrix.forEach((value, i) => expect(value).toBeCloseTo(expected[i], 5));
  scale.forEach((value, k) => expect(back.scale?.[k]).toBeCloseTo(value, 5));
});

it('a node at rest is where it rests, not where its motion begins', async () => {
  const document = quay({ rotation: [0, 0, 0] });
  const half = Math.SQRT1_2;
  document.clips.push({
    name: 'swing',
    start: 0,
    end: 1,
    tracks: [
      {
        node: 0,
        path: 'quaternion',
        times: Float64Array.of(0, 1),
        // From a quarter about y to nothing.
        values: Float64Array.of(0, half, 0, half, 0, 0, 0, 1),
        interpolation: 'linear',
      },
    ],
  });
  const back = await written(document);
  const expected = localMatrix(document.nodes[0].transform);
  back.matrix.forEach((value, i) => expect(value).toBeCloseTo(expected[i], 6));
});
