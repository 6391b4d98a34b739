import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type SceneDocument, Y_UP, Z_UP } from './document.ts';
import { transformPoint, worldMatrices } from './matrix.ts';
import { onTurntable } from './turntable.ts';

/** A board from (2, 0, 0) to (4, 1, 1) that swings by itself. */
function board(axes = Y_UP): SceneDocument {
  const document = createDocument('fbx', 'text');
  document.axes = axes;
  document.meshes.push(
    createMesh('board', {
      points: Float64Array.of(0, 0, 0, 2, 0, 0, 2, 1, 1),
      faceCounts: Uint32Array.of(3),
      faceCorners: Uint32Array.of(0, 1, 2),
    }),
  );
  const node = createNode('Board', 'mesh', -1, { mesh: 0 });
  node.transform.translation = [2, 0, 0];
  document.nodes.push(node);
  const track = {
    node: 0,
    path: 'translation' as const,
    times: Float64Array.of(0, 1),
    values: Float64Array.of(2, 0, 0, 2, 5, 0),
    interpolation: 'linear' as const,
  };
  document.clips.push({ name: 'rise', start: 0, end: 1, tracks: [track] });
  return document;
}

describe('a turntable', () => {
  it('stands under the middle and leaves all where it is', () => {
    const turned = onTurntable(board(), { seconds: 8 });
    expect(turned.nodes.map(({ name, parent }) => [name, parent])).toEqual([
      ['turn', -1],
      ['Board', 0],
    ]);
    expect(turned.nodes[0].transform.translation).toEqual([3, 0, 0.5]);
    expect(transformPoint(worldMatrices(turned.nodes)[1], 0, 0, 0)).toEqual([2, 0, 0]);
    expect([...turned.clips[1].tracks[0].values]).toEqual([-1, 0, -0.5, -1, 5, -0.5]);
    expect(turned.clips[1].tracks[0].node).toBe(1);
  });

  it('goes round once about what is up, evenly or with ease', () => {
    const angles = (axes = Y_UP, ease = false) => {
      const [{ tracks, end }] = onTurntable(board(axes), { seconds: 8, ease }).clips;
      return {
        end,
        times: tracks[0].times,
        degrees: Array.from({ length: tracks[0].times.length }, (_, i) => [
          ...tracks[0].values.slice(i * 3, i * 3 + 3),
        ]),
      };
    };
    const even = angles();
    expect([even.end, even.times[0], even.times.at(-1)]).toEqual([8, 0, 8]);
    expect([even.degrees[0], even.degrees[6], even.degrees[24]]).toEqual([
      [0, 0, 0],
      [0, 90, 0],
      [0, 360, 0],
    ]);
    expect(angles(Z_UP).degrees[12]).toEqual([0, 0, 180]);
    const eased = angles(Y_UP, true).degrees.map(([, y]) => y);
    expect([eased[0], eased[12], eased[24]]).toEqual([0, 180, 360]);
    expect(eased[1]).toBeLessThan(15 / 3);
    // No step is half a turn or more, which readers could take the other way.
    for (let i = 1; i < eased.length; i += 1) expect(eased[i] - eased[i - 1]).toBeLessThan(90);
  });
});
