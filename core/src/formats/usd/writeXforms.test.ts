import { expect, it } from 'vitest';
import { poseOf } from '../../compare/posed.ts';
import { memorySource } from '../../parcel/fileSource.ts';
import {
  type Clip,
  createDocument,
  createMesh,
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

/** The crane of a document as it is written, and its text. */
async function writtenMotion(document: SceneDocument) {
  const bytes = writeModel(document, 'quay.usda', {}).files.get('quay.usda') as Uint8Array;
  const back = await readUsd(bytes, 'quay.usda', memorySource('quay', {}));
  const matrixAt = (scene: SceneDocument, time: number) => {
    const index = scene.nodes.findIndex(({ name }) => name === 'crane');
    return poseOf(scene, scene.clips[0], time).worlds[index];
  };
  return { text: new TextDecoder().decode(bytes), back, matrixAt };
}

const turn: Track = { ...lift, path: 'rotation', values: Float64Array.of(0, 0, 0, 30, 50, 70) };

it.each<[string, Partial<TransformParts>, Track[], RegExp]>([
  [
    'an order that readers do not know',
    { rotation: [0, 0, 0], rotationOrder: 'ZXY' },
    [turn],
    /xformOp:orient/,
  ],
  [
    'places of their own to turn and to scale about',
    { rotation: [0, 0, 0], rotationPivot: [1, 0, 2], scalingPivot: [0, 3, 0] },
    [turn, { ...lift, path: 'scale', values: Float64Array.of(1, 1, 1, 2, 3, 1) }],
    /xformOp:orient/,
  ],
  [
    'a shift of the scale',
    { rotation: [0, 0, 0], scalingOffset: [0, 2, 0] },
    [{ ...lift, path: 'scale', values: Float64Array.of(1, 1, 1, 2, 3, 1) }],
    /xformOp:scale/,
  ],
])('motion with %s is said in what every reader knows', async (_, parts, tracks, says) => {
  const document = quay(parts);
  document.clips.push(clipOf('work', ...tracks));
  const { text, back, matrixAt } = await writtenMotion(document);
  expect(text).toMatch(says);
  expect(text).not.toMatch(/xformOp:(rotate(?!XYZ)|translate:scale)/);
  for (const time of [0, 0.3, 0.75, 1])
    matrixAt(back, time).forEach((value, i) =>
      expect(value, `${i} at ${time}`).toBeCloseTo(matrixAt(document, time)[i], 2),
    );
});

it('a morph target that stands elsewhere than at 0 is told', () => {
  const document = quay({});
  const shape = {
    name: 'bulge',
    points: Uint32Array.of(0),
    offsets: Float64Array.of(0, 0, 1),
    normalOffsets: null,
  };
  document.meshes.push(
    createMesh('hull', {
      points: Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0),
      faceCounts: Uint32Array.of(3),
      faceCorners: Uint32Array.of(0, 1, 2),
      shapes: [{ ...shape, weight: 0.5 }],
    }),
  );
  document.nodes.push(createNode('hull', 'mesh', -1, { mesh: 0 }));
  const losses = () => writeModel(document, 'quay.usda', {}).losses.map(({ code, part }) => [code, part]);
  expect(losses()).toContainEqual(['usd.morphRest', 'hull']);
  document.meshes[0].shapes[0].weight = 0;
  expect(losses().map(([code]) => code)).not.toContain('usd.morphRest');
});
