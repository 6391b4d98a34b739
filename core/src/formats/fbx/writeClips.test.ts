import { expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import { readModel } from '../../readModel.ts';
import { createDocument, createNode, type SceneDocument, type Track } from '../../scene/document.ts';
import { rotation } from '../../scene/matrix.ts';
import { evaluateTrack } from '../../scene/tracks.ts';
import { writeModel } from '../writeModel.ts';

/** A winch that turns by this many degrees a key about an axis of its own, from a start that is askew. */
function winch(degrees: number, axis: readonly number[], times: number[]): SceneDocument {
  const document = createDocument('gltf', '');
  document.nodes = [createNode('Winch', 'group', -1)];
  const values = times.flatMap((_, i) => {
    const half = (degrees * i * Math.PI) / 360;
    return [...axis.map((component) => component * Math.sin(half)), Math.cos(half)];
  });
  const track: Track = {
    node: 0,
    path: 'quaternion',
    times: Float64Array.from(times),
    values: Float64Array.from(values),
    interpolation: 'linear',
  };
  document.clips = [{ name: 'turn', start: times[0], end: times[times.length - 1], tracks: [track] }];
  return document;
}

/** A vector turned about an axis of length 1, by Rodrigues. */
function turned(v: readonly number[], axis: readonly number[], degrees: number): number[] {
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  const along = v.reduce((sum, component, k) => sum + component * axis[k], 0);
  return v.map((component, k) => {
    const [i, j] = [(k + 1) % 3, (k + 2) % 3];
    return component * c + (axis[i] * v[j] - axis[j] * v[i]) * s + axis[k] * along * (1 - c);
  });
}

it.each([
  ['a third of a turn a frame', 120, [0.48, 0.6, 0.64], 300],
  ['turns over the pole, where two axes of the angles fall together', 80, [0, 1, 0], 10],
  ['a little', 1, [0.6, 0, 0.8], 10],
])('turns go the short way at an even speed between keys: %s', async (_what, degrees, axis, keys) => {
  const times = [0, 1, 2, 3].map((frame) => frame / 24);
  const { files } = writeModel(winch(degrees, axis, times), 'winch.fbx');
  const back = await readModel('winch.fbx', memorySource('winch', Object.fromEntries(files)));
  const track = back.clips[0].tracks.find(({ path }) => path === 'rotation') as Track;
  const { rotationOrder } = back.nodes[track.node].transform;
  for (const frame of [0, 0.21, 0.5, 0.83, 1, 1.34, 1.9, 2.5, 3]) {
    const m = rotation(evaluateTrack(track, frame / 24) as [number, number, number], rotationOrder);
    for (const [k, v] of [
      [1, 0, 0],
      [0, 0, 1],
    ].entries()) {
      const column = k === 0 ? [m[0], m[1], m[2]] : [m[8], m[9], m[10]];
      const expected = turned(v, axis, degrees * frame);
      column.forEach((component, i) => expect(component).toBeCloseTo(expected[i], 3));
    }
  }
  // No more keys than that takes.
  expect(track.times.length).toBeLessThan(keys);
});

it.each([
  ['steps', 'step', [0, 1, 2], [1, 0, 1]],
  ['straight lines', 'linear', [0, 4], [1, 0]],
] as const)(
  'parts are shown and hidden by %s as other readers expect it',
  async (_what, interpolation, times, values) => {
    const document = createDocument('fbx', '');
    document.nodes = [createNode('Lamp', 'group', -1)];
    const track: Track = {
      node: 0,
      path: 'visible',
      times: Float64Array.from(times),
      values: Float64Array.from(values),
      interpolation,
    };
    document.clips = [{ name: 'blink', start: 0, end: 4, tracks: [track] }];
    const { files } = writeModel(document, 'lamp.fbx', { form: 'text' });
    const text = new TextDecoder().decode(files.get('lamp.fbx'));
    expect(text).toMatch(/C: "OP", ?\d+, ?\d+, ?"d\|Visibility"/);
    expect(text).not.toContain('d|X');
    const back = await readModel('lamp.fbx', memorySource('lamp', Object.fromEntries(files)));
    expect(back.clips[0].tracks.map(({ path, ...rest }) => [path, ...rest.times, ...rest.values])).toEqual([
      ['visible', ...times, ...values],
    ]);
  },
);

it.each([
  ['stands', []],
  ['turns in a clip', [[0, 0, 0, 40, -30, 70]]],
] as const)(
  'a shape that is turned apart from a node in another order is written in the usual one where it %s',
  async (_what, turns) => {
    const document = createDocument('fbx', '');
    document.nodes = [createNode('Sign', 'group', -1)];
    const { transform } = document.nodes[0];
    Object.assign(transform, {
      rotation: [20, 40, 60],
      rotationOrder: 'ZXY',
      geometricRotation: [10, 20, 30],
    });
    document.clips = turns.map((values) => ({
      name: 'swing',
      start: 0,
      end: 1,
      tracks: [
        {
          node: 0,
          path: 'rotation' as const,
          times: Float64Array.of(0, 1),
          values: Float64Array.from(values),
          interpolation: 'linear' as const,
        },
      ],
    }));
    const { files } = writeModel(document, 'sign.fbx');
    const back = await readModel('sign.fbx', memorySource('sign', Object.fromEntries(files)));
    const written = back.nodes[0].transform;
    expect(written.rotationOrder).toBe('XYZ');
    expect(written.geometricRotation).toEqual([10, 20, 30]);
    const close = (found: Iterable<number>, expected: ArrayLike<number>) =>
      [...found].forEach((component, i) => expect(component).toBeCloseTo(expected[i], 3));
    close(rotation(written.rotation), rotation([20, 40, 60], 'ZXY'));
    for (const [i, clip] of document.clips.entries())
      for (const time of [0, 0.4, 1]) {
        const angles = evaluateTrack(back.clips[i].tracks[0], time) as [number, number, number];
        const expected = evaluateTrack(clip.tracks[0], time) as [number, number, number];
        close(rotation(angles), rotation(expected, 'ZXY'));
      }
  },
);
