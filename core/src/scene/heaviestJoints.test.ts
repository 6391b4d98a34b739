import { expect, it } from 'vitest';
import { createMesh, type PolygonMesh } from './document.ts';
import { withHeaviestJoints } from './heaviestJoints.ts';

/** Joints and weights of each point. */
function skinned(points: [number, number][][]): PolygonMesh {
  const starts = Uint32Array.from([0, ...points.map((_, i) => points.slice(0, i + 1).flat().length)]);
  const flat = points.flat();
  const influences = {
    starts,
    joints: Uint32Array.from(flat, ([joint]) => joint),
    weights: Float32Array.from(flat, ([, weight]) => weight),
  };
  return createMesh('skin', {
    points: new Float64Array(points.length * 3),
    faceCounts: new Uint32Array(0),
    faceCorners: new Uint32Array(0),
    influences,
  });
}

const read = ({ influences }: PolygonMesh, point: number) => {
  const { starts, joints, weights } = influences as NonNullable<PolygonMesh['influences']>;
  return Array.from({ length: starts[point + 1] - starts[point] }, (_, i) => [
    joints[starts[point] + i],
    Number(weights[starts[point] + i].toFixed(6)),
  ]);
};

it('points that follow too many joints follow the heaviest, with all of their weight; the others stay', () => {
  const mesh = skinned([
    [
      [0, 0.1],
      [1, 0.5],
      [2, 0.15],
      [3, 0.25],
    ],
    [[4, 1]],
    [],
    [
      [0, 0.5],
      [1, 0],
      [2, 0.5],
    ],
  ]);
  const { mesh: made, points } = withHeaviestJoints(mesh, 2);
  expect(points).toBe(1);
  // A half and a quarter become two thirds and a third.
  expect(read(made, 0)).toEqual([
    [1, 0.666667],
    [3, 0.333333],
  ]);
  expect([read(made, 1), read(made, 2), read(made, 3)]).toEqual([
    [[4, 1]],
    [],
    [
      [0, 0.5],
      [2, 0.5],
    ],
  ]);
  expect(withHeaviestJoints(made, 2)).toEqual({ mesh: made, points: 0 });
});

it('where none follows more, or nothing moves it, the mesh stays as it is', () => {
  const few = skinned([
    [
      [0, 0.5],
      [1, 0.5],
    ],
  ]);
  expect(withHeaviestJoints(few, 4).mesh).toBe(few);
  const still = { ...few, influences: null };
  expect(withHeaviestJoints(still, 4)).toEqual({ mesh: still, points: 0 });
});
