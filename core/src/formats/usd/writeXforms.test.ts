import { expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import {
  type Clip,
  createDocument,
  createNode,
  identityTransform,
  type SceneDocument,
  type Track,
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

const still = (path: Track['path'], values: number[]): Track => ({
  node: 0,
  path,
  times: Float64Array.of(0.5),
  values: Float64Array.from(values),
  interpolation: 'step',
});
const clipOf = (name: string, ...tracks: Track[]): Clip => ({ name, start: 0, end: 1, tracks });
const lift: Track = {
  node: 0,
  path: 'translation',
  times: Float64Array.of(0, 1),
  values: Float64Array.of(1, 2, 3, 1, 5, 3),
  interpolation: 'linear',
};

it('of several clips the first that moves is written, and the others are told', async () => {
  const document = quay({});
  document.clips.push(
    clipOf('rest', still('translation', [0, 0, 0])),
    clipOf('lift', lift),
    clipOf('more', lift),
  );
  const { files, losses } = writeModel(document, 'quay.usda', {});
  expect(losses).toEqual([
    { code: 'usd.clips', part: 'rest' },
    { code: 'usd.clips', part: 'more' },
  ]);
  const bytes = files.get('quay.usda') as Uint8Array;
  const [clip] = (await readUsd(bytes, 'quay.usda', memorySource('quay', {}))).clips;
  expect(clip.tracks.map(({ path, values }) => [path, ...values])).toEqual([
    ['translation', 1, 2, 3, 1, 5, 3],
  ]);
});

it('a clip of one pose is written beside the rest', async () => {
  const document = quay({});
  document.clips.push(clipOf('pose', still('translation', [7, 8, 9])));
  const bytes = writeModel(document, 'quay.usda', {}).files.get('quay.usda') as Uint8Array;
  const back = await readUsd(bytes, 'quay.usda', memorySource('quay', {}));
  expect(back.nodes.find(({ name }) => name === 'crane')?.transform.translation).toEqual([1, 2, 3]);
  expect(back.clips.map(({ tracks }) => tracks.map(({ times, values }) => [...times, ...values]))).toEqual([
    [[0.5, 7, 8, 9]],
  ]);
});

it.each<[string, Track['interpolation'], number[], number[]]>([
  ['at keys', 'step', [0, 1, 2, 1, 0, 1], [0, 1, 1, 0, 2, 1]],
  ['half way along a straight span', 'linear', [0, 2, 4, 1, 0, 0], [0, 1, 1, 0, 2, 0, 4, 0]],
])('parts are shown and hidden %s', async (_, interpolation, [a, b, c, ...values], expected) => {
  const document = quay({});
  document.nodes[0].visible = false;
  const times = Float64Array.of(a, b, c);
  document.clips.push(
    clipOf('blink', { node: 0, path: 'visible', times, values: Float64Array.from(values), interpolation }),
  );
  const bytes = writeModel(document, 'quay.usda', {}).files.get('quay.usda') as Uint8Array;
  const back = await readUsd(bytes, 'quay.usda', memorySource('quay', {}));
  const [track] = back.clips[0].tracks;
  expect([track.path, track.interpolation]).toEqual(['visible', 'step']);
  expect([...track.times].flatMap((time, i) => [time, track.values[i]])).toEqual(expected);
  expect(back.nodes.find(({ name }) => name === 'crane')?.visible).toBe(false);
});
