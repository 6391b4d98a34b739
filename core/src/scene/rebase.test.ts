import { describe, expect, it } from 'vitest';
import { poseOf } from '../compare/posed.ts';
import { BOX_QUADS } from '../test/boxes.ts';
import { riggedCrane } from '../test/rigged.ts';
import { changeParts } from './changeParts.ts';
import {
  createDocument,
  createMesh,
  createNode,
  type SceneDocument,
  type Track,
  type TrackPath,
  Y_UP,
} from './document.ts';
import type { PartChange } from './partChange.ts';
import { motionInScene } from './rebase.ts';
import { evaluateTrack } from './tracks.ts';

const track = (
  path: TrackPath,
  times: number[],
  values: number[],
  interpolation: Track['interpolation'] = 'linear',
): Track => ({
  node: 1,
  path,
  times: Float64Array.from(times),
  values: Float64Array.from(values),
  interpolation,
});

/** A crane at x 10, turned a quarter and twice as large, with a hook that moves in it. */
function crane(tracks: Track[]): SceneDocument {
  const document = createDocument('fbx', 'text');
  Object.assign(document, { axes: Y_UP, metresPerUnit: 1 });
  document.meshes.push(
    createMesh('hook', {
      points: new Float64Array(24),
      faceCounts: new Uint32Array(6).fill(4),
      faceCorners: Uint32Array.from(BOX_QUADS.flat()),
    }),
  );
  const group = createNode('Crane', 'group', -1);
  Object.assign(group.transform, { translation: [10, 0, 0], rotation: [0, 90, 0], scale: [2, 2, 2] });
  document.nodes.push(group, createNode('Hook', 'mesh', 0, { mesh: 0 }));
  document.clips.push({ name: 'work', start: 0, end: 1, tracks });
  return document;
}

const KEYS = ['Crane', 'Hook'];
const out = (document: SceneDocument, change: PartChange = { do: 'move', parts: ['Hook'], under: null }) =>
  changeParts(document, KEYS, [change], () => null);
const at = (document: SceneDocument, path: TrackPath, time: number) => {
  const found = document.clips[0].tracks.find((one) => one.path === path);
  return found ? evaluateTrack(found, time) : null;
};
const close = (found: readonly number[] | null, expected: number[]) =>
  expect(found?.map((value) => Number(value.toFixed(4)) + 0)).toEqual(expected);

describe('motion of a part that hangs elsewhere', () => {
  it('goes where it went: along z in the crane is along x outside, twice as far', () => {
    const { document, losses } = out(crane([track('translation', [0, 1], [0, 0, 0, 0, 3, 1])]));
    expect([losses, document.nodes.map(({ parent }) => parent)]).toEqual([[], [-1, -1]]);
    close(at(document, 'translation', 0), [10, 0, 0]);
    close(at(document, 'translation', 0.5), [11, 3, 0]);
    close(at(document, 'translation', 1), [12, 6, 0]);
    // Keys stay where they were, since the way between them is straight in either space.
    expect(document.clips[0].tracks[0].times).toHaveLength(2);
  });

  it('turns as it turned, on top of what it hung on', () => {
    const { document } = out(crane([track('rotation', [0, 1], [0, 0, 0, 0, 90, 0])]));
    const half = (degrees: number) => [
      0,
      Number(Math.sin((degrees * Math.PI) / 360).toFixed(4)),
      0,
      Number(Math.cos((degrees * Math.PI) / 360).toFixed(4)) + 0,
    ];
    close(at(document, 'quaternion', 0), half(90));
    close(at(document, 'quaternion', 0.5), half(135));
    close(at(document, 'quaternion', 1), half(180));
    close(at(document, 'scale', 0.5), [2, 2, 2]);
    close(at(document, 'translation', 0.5), [10, 0, 0]);
  });

  it('grows as it grew, in steps where it went in steps, and other tracks stay', () => {
    const shown = track('visible', [0, 0.5], [1, 0], 'step');
    const { document } = out(crane([track('scale', [0, 0.5], [1, 1, 1, 3, 3, 3], 'step'), shown]));
    close(at(document, 'scale', 0.4), [2, 2, 2]);
    close(at(document, 'scale', 0.5), [6, 6, 6]);
    expect(document.clips[0].tracks.find(({ path }) => path === 'visible')).toEqual({ ...shown, node: 1 });
  });

  it('goes straight where only some of it went in steps', () => {
    const { document } = out(
      crane([
        track('translation', [0, 1], [0, 0, 0, 0, 3, 1]),
        track('scale', [0, 0.5], [1, 1, 1, 3, 3, 3], 'step'),
      ]),
    );
    expect(document.clips[0].tracks.map(({ interpolation }) => interpolation)).toEqual([
      'linear',
      'linear',
      'linear',
    ]);
    close(at(document, 'translation', 0.25), [10.5, 1.5, 0]);
  });

  it('is kept where the part it hangs on is let go, or its transform applied', () => {
    const moving = () => crane([track('translation', [0, 1], [0, 0, 0, 0, 3, 1])]);
    for (const change of [
      { do: 'ungroup', parts: ['Crane'] },
      { do: 'apply', parts: ['Crane'] },
    ] as const) {
      const { document, losses } = out(moving(), { ...change, parts: [...change.parts] });
      expect(losses).toEqual([]);
      close(at(document, 'translation', 1), [12, 6, 0]);
    }
  });

  it('is shifted key by key where only the place differs, curves included', () => {
    const document = crane([
      track('translation', [0, 1], [0, 0, 0, 0, 0, 0, 1, 0, 0, 1, 0, 0, 4, 0, 0, 0, 0, 0], 'cubic'),
    ]);
    Object.assign(document.nodes[0].transform, { rotation: [0, 0, 0], scale: [1, 1, 1] });
    const [moved] = out(document).document.clips[0].tracks;
    expect([moved.interpolation, [...moved.values]]).toEqual([
      'cubic',
      [0, 0, 0, 10, 0, 0, 1, 0, 0, 1, 0, 0, 14, 0, 0, 0, 0, 0],
    ]);
  });

  it('that would be sheared is left out, and told', () => {
    const document = crane([track('rotation', [0, 1], [0, 0, 0, 0, 0, 90])]);
    document.nodes[0].transform.scale = [1, 3, 1];
    const { document: moved, losses } = out(document);
    expect([losses, moved.clips]).toEqual([[{ code: 'part.shearedMotion', part: 'Hook' }], []]);
  });

  it('with pivots stands at every moment where it stood', () => {
    const document = riggedCrane();
    document.nodes[5].transform.scale = [1.5, 1.5, 1.5];
    const keys = document.nodes.map(({ name }) => name);
    const { document: moved } = changeParts(
      document,
      keys,
      [{ do: 'move', parts: ['Hook'], under: null }],
      () => null,
    );
    const hook = moved.nodes.findIndex(({ name }) => name === 'Hook');
    for (const [c, clip] of document.clips.entries()) {
      // A parent that moves takes its part along no more once it hangs elsewhere.
      if (clip.name === 'lift') continue;
      for (const time of [0, 0.3, 0.5, 1.1, 2]) {
        const [before, after] = [
          poseOf(document, clip, time).worlds[5],
          poseOf(moved, moved.clips[c], time).worlds[hook],
        ];
        before.forEach((value, i) => expect(after[i]).toBeCloseTo(value, 6));
      }
    }
  });
});

describe('motion of a part in the scene', () => {
  it('has the motion of what it hangs on: carried round a quarter turn while it goes out', () => {
    const document = crane([]);
    const turn: Track = { ...track('rotation', [0, 1], [0, 0, 0, 0, 90, 0]), node: 0 };
    Object.assign(document.nodes[0].transform, { rotation: [0, 0, 0] });
    const tracks = motionInScene(document.nodes, 1, [turn, track('translation', [0, 1], [1, 0, 0, 3, 0, 0])]);
    const value = (path: TrackPath, time: number) =>
      evaluateTrack(tracks.find((one) => one.path === path) as Track, time);
    // The crane stands at x 10, twice as large: 1 out is 2 in the scene; turned a quarter, x lies along -z.
    close(value('translation', 0), [12, 0, 0]);
    close(value('translation', 1), [10, 0, -6]);
    close(
      value('translation', 0.5),
      [10 + 4 * Math.SQRT1_2, 0, -4 * Math.SQRT1_2].map((component) => Number(component.toFixed(4))),
    );
    const eighth = Number(Math.SQRT1_2.toFixed(4));
    close(value('quaternion', 1), [0, eighth, 0, eighth]);
    close(value('scale', 1), [2, 2, 2]);
    expect(motionInScene(document.nodes, 1, [])).toEqual([]);
    expect(motionInScene(document.nodes, 0, [track('translation', [0, 1], [1, 0, 0, 3, 0, 0])])).toEqual([]);
  });
});
