import type { FaceFault } from '@kinkajou/core/shape/faultyFaces';
import { BOX_QUADS, boxPoints } from '@kinkajou/core/test/boxes';
import { describe, expect, it } from 'vitest';
import { answerShape, type Piece } from './shapeWork.ts';

/** A cube of triangles as the view holds it: some of its quads, with points of their own. */
function piece(quads: readonly (readonly number[])[]): Piece {
  const cube = boxPoints(0, 2);
  const points = quads.flat().flatMap((corner) => cube.slice(corner * 3, corner * 3 + 3));
  const corners = quads.flatMap((_, i) => [0, 1, 2, 0, 2, 3].map((corner) => i * 4 + corner));
  return { points: Float32Array.from(points), corners: Uint32Array.from(corners), normals: null, uvs: null };
}

const faults = async (pieces: Piece[], ...names: FaceFault[]) => {
  const answer = await answerShape({ id: 7, kind: 'faults', faults: names, pieces });
  return answer.kind === 'faults' ? answer.marks.map((marks) => [...marks]) : [];
};

describe('a part whose faces lie in pieces, by material', () => {
  it('is one body: it closes, and nothing is amiss', async () => {
    expect(
      await faults([piece(BOX_QUADS.slice(0, 2)), piece(BOX_QUADS.slice(2))], 'inward', 'open', 'mixed'),
    ).toEqual([Array(4).fill(0), Array(8).fill(0)]);
  });

  it('has the first fault that is there, marked per triangle of each piece', async () => {
    const turned = BOX_QUADS.map((quad) => quad.toReversed());
    expect(await faults([piece(turned.slice(0, 2)), piece(turned.slice(2))], 'open', 'inward')).toEqual([
      Array(4).fill(1),
      Array(8).fill(1),
    ]);
    // The face at x = 0 is away: of each face beside it the triangle that has the edge.
    const [first] = await faults([piece(BOX_QUADS.slice(1))], 'open');
    expect(first.slice(0, 2)).toEqual([0, 0]);
    expect(first.reduce((sum, mark) => sum + mark, 0)).toBe(4);
  });
});

describe('UVs that only some pieces have', () => {
  it('lack where they lack, and reach beyond the image where they do', async () => {
    const uvs = Float32Array.from([0, 0, 1.5, 0, 1, 1, 0, 1]);
    const pieces = [{ ...piece(BOX_QUADS.slice(0, 1)), uvs }, piece(BOX_QUADS.slice(1, 2))];
    expect(await faults(pieces, 'noUv')).toEqual([
      [0, 0],
      [1, 1],
    ]);
    expect(await faults(pieces, 'uvOutside')).toEqual([
      [1, 0],
      [0, 0],
    ]);
  });
});

describe('a shape for collision', () => {
  it('has each edge once, and its triangles are told', async () => {
    const box = await answerShape({
      id: 1,
      kind: 'collision',
      collision: { shape: 'box' },
      pieces: [piece(BOX_QUADS)],
    });
    expect(box).toMatchObject({ id: 1, kind: 'collision', triangles: 12 });
    // Twelve edges of two places.
    expect(box.kind === 'collision' && box.lines.length).toBe(12 * 2 * 3);
    expect(
      await answerShape({
        id: 2,
        kind: 'collision',
        collision: { shape: 'none' },
        pieces: [piece(BOX_QUADS)],
      }),
    ).toMatchObject({
      triangles: 0,
      lines: new Float32Array(0),
    });
  });
});
