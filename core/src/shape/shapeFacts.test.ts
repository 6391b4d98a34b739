import { describe, expect, it } from 'vitest';
import { BOX_QUADS, boxPoints, meshOf as mesh } from '../test/boxes.ts';
import { measureShape } from './shapeFacts.ts';

const OUTWARD = BOX_QUADS.map((quad) => [...quad]);
const inward = (faces: number[][]) => faces.map((face) => face.toReversed());
const shifted = (faces: number[][], by: number) => faces.map((face) => face.map((corner) => corner + by));

const box = (min: number, max: number, faces = OUTWARD) => mesh(boxPoints(min, max), faces);
const normals = (values: number[], domain: 'face' | 'corner' | 'point' = 'face') => ({
  normals: { name: 'n', size: 3 as const, domain, values: Float64Array.from(values), index: null },
});
const FACE_NORMALS = [-1, 0, 0, 1, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, -1, 0, 0, 1];

describe('a body', () => {
  it('has the volume, area and balance of its box, wherever it lies', () => {
    expect(measureShape(box(2, 5))).toMatchObject({
      faces: 6,
      area: 54,
      volume: 27,
      solids: 1,
      closed: 1,
      openEdges: 0,
      mixedEdges: 0,
      balance: [3.5, 3.5, 3.5],
    });
    const far = measureShape(box(100_000, 100_002));
    expect(far.volume).toBeCloseTo(8, 9);
    expect(far.degenerate).toBe(0);
    expect(far.bounds).toEqual({ min: [100_000, 100_000, 100_000], max: [100_002, 100_002, 100_002] });
  });

  it('balances where its volume does: a pyramid a quarter up from its base', () => {
    const pyramid = mesh(
      [0, 0, 0, 3, 0, 0, 0, 3, 0, 0, 0, 4],
      [
        [0, 2, 1],
        [0, 1, 3],
        [1, 2, 3],
        [0, 3, 2],
      ],
    );
    const { volume, balance } = measureShape(pyramid);
    expect(volume).toBeCloseTo(6, 12);
    balance?.forEach((value, k) => expect(value).toBeCloseTo([0.75, 0.75, 1][k], 12));
  });

  it('is closed though its points are split along every face', () => {
    const corners = OUTWARD.flat();
    const all = boxPoints(0, 1);
    const split = mesh(
      corners.flatMap((corner) => all.slice(corner * 3, corner * 3 + 3)),
      OUTWARD.map((_, face) => [0, 1, 2, 3].map((i) => face * 4 + i)),
    );
    expect(measureShape(split)).toMatchObject({
      solids: 1,
      closed: 1,
      volume: expect.closeTo(1, 12),
      openEdges: 0,
    });
  });

  it('looks inwards where all its faces do, not where one does', () => {
    expect(measureShape(box(0, 1, inward(OUTWARD)))).toMatchObject({
      inward: { solids: 1, faces: 6 },
      volume: expect.closeTo(1, 12),
      mixedEdges: 0,
    });
    const one = [...OUTWARD.slice(0, 5), OUTWARD[5].toReversed()];
    expect(measureShape(box(0, 1, one))).toMatchObject({
      inward: { solids: 0, faces: 0 },
      mixedEdges: 4,
      openEdges: 0,
    });
  });

  it('without a lid is open, and never inside out', () => {
    const open = box(0, 1, inward(OUTWARD.slice(0, 5)));
    expect(measureShape(open)).toMatchObject({
      closed: 0,
      volume: null,
      openEdges: 4,
      inward: { solids: 0 },
    });
    expect(measureShape(open).balance?.map((value) => Number(value.toFixed(3)))).toEqual([0.5, 0.5, 0.4]);
  });

  it('that is hollow has an inner wall that looks inwards rightly; a body beside it has not', () => {
    const hollow = mesh(
      [...boxPoints(0, 4), ...boxPoints(1, 3)],
      [...OUTWARD, ...shifted(inward(OUTWARD), 8)],
    );
    expect(measureShape(hollow)).toMatchObject({
      solids: 2,
      closed: 2,
      volume: expect.closeTo(64 - 8, 10),
      inward: { solids: 0 },
    });
    const beside = mesh(
      [...boxPoints(0, 4), ...boxPoints(5, 7)],
      [...OUTWARD, ...shifted(inward(OUTWARD), 8)],
    );
    expect(measureShape(beside)).toMatchObject({
      volume: expect.closeTo(64 + 8, 10),
      inward: { solids: 1, faces: 6 },
    });
    const whole = mesh(
      [...boxPoints(0, 4), ...boxPoints(1, 3)],
      [...inward(OUTWARD), ...shifted(OUTWARD, 8)],
    );
    expect(measureShape(whole).inward).toEqual({ solids: 1, faces: 6 });
  });

  it('in the notch of a bent one lies within its box and not within it', () => {
    // An L of 4 by 4 with a notch from (2, 2) to (4, 4), one thick; the body in the notch looks inwards by
    // mistake.
    const outline = [0, 0, 4, 0, 4, 2, 2, 2, 2, 4, 0, 4];
    const layer = (z: number) =>
      Array.from({ length: 6 }, (_, i) => [outline[i * 2], outline[i * 2 + 1], z]).flat();
    const sides = Array.from({ length: 6 }, (_, i) => [i, (i + 1) % 6, ((i + 1) % 6) + 6, i + 6]);
    const bent = [[5, 4, 3, 2, 1, 0], [6, 7, 8, 9, 10, 11], ...sides];
    const small = boxPoints(0, 0.5).map((value, i) => value + (i % 3 === 2 ? 0.25 : 3));
    expect(measureShape(mesh([...layer(0), ...layer(1)], bent)).volume).toBeCloseTo(12, 12);
    expect(
      measureShape(mesh([...layer(0), ...layer(1), ...small], [...bent, ...shifted(inward(OUTWARD), 12)]))
        .inward.solids,
    ).toBe(1);
  });
});

describe('faces', () => {
  const flag = [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0];

  it('upon each other are told by the way they go round, whatever corner they begin at, and are not mixed winding', () => {
    expect(
      measureShape(
        mesh(flag, [
          [0, 1, 2, 3],
          [2, 3, 0, 1],
        ]),
      ),
    ).toMatchObject({ doubled: { same: 1, turned: 0 }, mixedEdges: 0, closed: 0, volume: null });
    expect(
      measureShape(
        mesh(flag, [
          [0, 1, 2, 3],
          [1, 0, 3, 2],
        ]),
      ),
    ).toMatchObject({ doubled: { same: 0, turned: 1 }, mixedEdges: 0, volume: null });
    expect(
      measureShape(
        mesh(flag, [
          [0, 1, 2, 3],
          [0, 2, 1, 3],
        ]),
      ).doubled,
    ).toEqual({ same: 0, turned: 0 });
  });

  it('disagree where two pass an edge in the same direction', () => {
    const strip = [...flag, 2, 0, 0, 2, 1, 0];
    expect(
      measureShape(
        mesh(strip, [
          [0, 1, 2, 3],
          [1, 4, 5, 2],
        ]),
      ).mixedEdges,
    ).toBe(0);
    expect(
      measureShape(
        mesh(strip, [
          [0, 1, 2, 3],
          [2, 5, 4, 1],
        ]),
      ).mixedEdges,
    ).toBe(1);
  });

  it('without area are found, slivers that have one are not', () => {
    const points = [...flag, 0.5, 0, 0, 0.5, 1e-4, 0];
    expect(
      measureShape(
        mesh(points, [
          [0, 1, 2, 3],
          [0, 4, 1],
          [0, 1, 5],
          [0, 0, 1],
        ]),
      ).degenerate,
    ).toBe(2);
  });
});

describe('normals', () => {
  it('agree, stand against the winding, or are none', () => {
    expect(measureShape(mesh(boxPoints(0, 1), OUTWARD)).normals).toEqual({
      written: false,
      against: 0,
      broken: 0,
    });
    expect(measureShape(mesh(boxPoints(0, 1), OUTWARD, normals(FACE_NORMALS))).normals).toEqual({
      written: true,
      against: 0,
      broken: 0,
    });
    expect(
      measureShape(mesh(boxPoints(0, 1), OUTWARD, normals(FACE_NORMALS.map((value) => -value)))).normals
        .against,
    ).toBe(1);
    const half = FACE_NORMALS.map((value, i) => (i < 9 ? -value : value));
    expect(measureShape(mesh(boxPoints(0, 1), OUTWARD, normals(half))).normals.against).toBeCloseTo(0.5, 12);
  });

  it('of other lengths are broken; rounding to eight bits is none', () => {
    const count = (values: number[]) =>
      measureShape(mesh(boxPoints(0, 1), OUTWARD, normals(values))).normals.broken;
    expect(count(FACE_NORMALS.map((value) => value * 1.01))).toBe(0);
    expect(count(FACE_NORMALS.map((value) => value * 1.5))).toBe(24);
    expect(count([0, 0, 0, ...FACE_NORMALS.slice(3)])).toBe(4);
  });
});

describe('UVs', () => {
  const uvs = (values: number[], parts = {}) => ({
    uvSets: [
      {
        name: 'uv',
        size: 2 as const,
        domain: 'corner' as const,
        values: Float64Array.from(values),
        index: null,
        ...parts,
      },
    ],
  });
  const flag = [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0];
  const faces = [
    [0, 1, 2, 3],
    [0, 1, 2, 3],
  ];

  it('are measured by material slot: how far they reach, and how many faces have none', () => {
    const square = [0, 0, 1, 0, 1, 1, 0, 1];
    const moved = square.map((value) => value * 2 - 0.5);
    const faceMaterial = Int32Array.of(2, 0);
    expect(measureShape(mesh(flag, faces, { ...uvs([...square, ...moved]), faceMaterial })).uvs).toEqual([
      {
        slot: 0,
        faces: 1,
        lacking: 0,
        collapsed: 0,
        points: 0,
        range: { min: [-0.5, -0.5], max: [1.5, 1.5] },
      },
      { slot: 2, faces: 1, lacking: 0, collapsed: 0, points: 0, range: { min: [0, 0], max: [1, 1] } },
    ]);
    expect(measureShape(mesh(flag, faces)).uvs).toMatchObject([
      { slot: 0, faces: 2, lacking: 2, range: null },
    ]);
  });

  it('that take one point of the image are counted with how many points they take', () => {
    const point = (u: number) => [u, 0.5, u, 0.5, u, 0.5, u, 0.5];
    expect(measureShape(mesh(flag, faces, uvs([...point(0.1), ...point(0.1)]))).uvs).toMatchObject([
      { collapsed: 2, points: 1 },
    ]);
    expect(measureShape(mesh(flag, faces, uvs([...point(0.1), ...point(0.2)]))).uvs).toMatchObject([
      { collapsed: 2, points: 2 },
    ]);
  });

  it('of corners that name none are no UVs', () => {
    const values = [0, 0, 1, 0, 1, 1, 0, 1, 0, 0];
    const index = Uint32Array.of(0, 1, 2, 3, 4, 4, 4, 4);
    expect(measureShape(mesh(flag, faces, uvs(values, { index, none: 4 }))).uvs).toMatchObject([
      { lacking: 1, collapsed: 0 },
    ]);
  });
});

describe('a mesh without faces', () => {
  it('has nothing to say', () => {
    expect(measureShape(mesh([], []))).toMatchObject({
      faces: 0,
      area: 0,
      volume: null,
      solids: 0,
      bounds: null,
      balance: null,
      uvs: [],
    });
  });
});
