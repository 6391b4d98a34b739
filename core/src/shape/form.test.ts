import { describe, expect, it } from 'vitest';
import { createMesh, type PolygonMesh, type Vec3 } from '../scene/document.ts';
import { multiply, rotation, scaling, transformPoint, translation } from '../scene/matrix.ts';
import { mergeMeshes } from '../scene/mergeMeshes.ts';
import type { CutBy } from '../scene/partChange.ts';
import { BOX_QUADS } from '../test/boxes.ts';
import { compareForms, type Form } from './form.ts';
import { MOST_PIECES } from './pieceFacts.ts';
import { measureShape } from './shapeFacts.ts';

/** A wedge whose sides are all of different length, so that it has a left and a right hand. */
function wedge(matrix = scaling([1, 1, 1])): PolygonMesh {
  const corners: Vec3[] = [
    [0, 0, 0],
    [3, 0, 0],
    [0, 2, 0],
    [0, 0, 1],
  ];
  return createMesh('wedge', {
    points: Float64Array.from(corners.flatMap((corner) => transformPoint(matrix, ...corner))),
    faceCounts: Uint32Array.of(3, 3, 3, 3),
    faceCorners: Uint32Array.of(0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3),
  });
}

const formOf = (mesh: PolygonMesh) => measureShape(mesh).form as Form;
const moved = multiply(translation([400, -20, 7]), rotation([30, 200, -75]));

describe('the form of a body', () => {
  it('is known by hand for a cube', () => {
    const points = Float64Array.from(
      Array.from({ length: 8 }, (_, i) => [i & 1, (i >> 1) & 1, (i >> 2) & 1].map((side) => side * 2)).flat(),
    );
    const cube = createMesh('cube', {
      points,
      faceCounts: new Uint32Array(6).fill(4),
      faceCorners: Uint32Array.from(BOX_QUADS.flat()),
    });
    // Every corner lies the root of three from the middle, and it has no hand.
    const far = expect.closeTo(Math.sqrt(3), 12);
    expect(formOf(cube)).toEqual({
      faces: 6,
      corners: 24,
      area: expect.closeTo(24, 12),
      spread: [far, far, far],
      hand: 0,
    });
  });

  it('is the same however it lies, and another where it is larger, stretched or has other faces', () => {
    const own = formOf(wedge());
    expect(own.hand).not.toBe(0);
    expect(compareForms(own, formOf(wedge(moved)))).toBe('same');
    expect(compareForms(own, formOf(wedge(scaling([1.01, 1.01, 1.01]))))).toBeNull();
    expect(compareForms(own, formOf(wedge(scaling([1, 1, 1.01]))))).toBeNull();
    expect(compareForms(own, { ...own, faces: 5 })).toBeNull();
    expect(compareForms(own, { ...own, corners: 13 })).toBeNull();
  });

  it('is told from its mirror image, wherever the mirror stands', () => {
    const own = formOf(wedge());
    for (const mirror of [scaling([-1, 1, 1]), multiply(moved, scaling([1, -1, 1]))]) {
      expect(formOf(wedge(mirror)).hand).toBeCloseTo(-own.hand, 9);
      expect(compareForms(own, formOf(wedge(mirror)))).toBe('mirrored');
    }
  });

  it('survives single precision', () => {
    const rounded = wedge(moved);
    rounded.points.forEach((value, i) => {
      rounded.points[i] = Math.fround(value);
    });
    expect(compareForms(formOf(wedge()), formOf(rounded))).toBe('same');
  });
});

describe('the pieces of a mesh', () => {
  const joined = (meshes: PolygonMesh[]) =>
    mergeMeshes(
      'lump',
      meshes.map((mesh) => ({ mesh, slots: [0] })),
    );

  it('are its solids with the form of each, and its materials by slot', () => {
    const lump = joined([
      wedge(),
      wedge(translation([9, 0, 0])),
      wedge(multiply(translation([0, 0, 50]), scaling([-2, 2, 2]))),
    ]);
    lump.faceMaterial = Int32Array.of(2, 2, 2, 2, 0, 0, 0, 2, 0, 0, 0, 0);
    const { solids, materials } = measureShape(lump).pieces as Record<
      CutBy,
      { faces: number; slots: number[]; form: Form }[]
    >;
    expect(solids.map(({ faces, slots }) => [faces, slots])).toEqual([
      [4, [2]],
      [4, [0, 2]],
      [4, [0]],
    ]);
    expect([
      compareForms(solids[0].form, solids[1].form),
      compareForms(solids[0].form, solids[2].form),
    ]).toEqual(['same', null]);
    expect(materials.map(({ faces, slots }) => [faces, slots])).toEqual([
      [7, [0]],
      [5, [2]],
    ]);
  });

  it('are none of what stays whole, and only counted where they are very many', () => {
    expect(measureShape(wedge()).pieces).toEqual({ materials: [], solids: [] });
    const many = joined(
      Array.from({ length: MOST_PIECES + 1 }, (_, i) => wedge(translation([i * 10, 0, 0]))),
    );
    expect(measureShape(many).pieces).toEqual({ materials: [], solids: MOST_PIECES + 1 });
  });
});
