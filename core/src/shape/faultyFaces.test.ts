import { describe, expect, it } from 'vitest';
import type { PolygonMesh } from '../scene/document.ts';
import { BOX_QUADS, boxPoints, meshOf as mesh } from '../test/boxes.ts';
import { type FaceFault, faultyFaces } from './faultyFaces.ts';

const OUTWARD = BOX_QUADS.map((quad) => [...quad]);
const INWARD = OUTWARD.map((face) => face.toReversed());
const second = (faces: number[][]) => faces.map((face) => face.map((corner) => corner + 8));

const faulty = (shape: PolygonMesh, fault: FaceFault) =>
  [...faultyFaces(shape, fault)].flatMap((mark, face) => (mark ? [face] : []));
const NONE: FaceFault[] = [
  'inward',
  'against',
  'brokenNormals',
  'mixed',
  'open',
  'doubled',
  'degenerate',
  'uvCollapsed',
  'uvOutside',
];

describe('faces with a fault', () => {
  it('are none of a sound box but for the UVs that it lacks', () => {
    for (const fault of NONE) expect(faulty(mesh(boxPoints(0, 1), OUTWARD), fault), fault).toEqual([]);
    expect(faulty(mesh(boxPoints(0, 1), OUTWARD), 'noUv')).toEqual([0, 1, 2, 3, 4, 5]);
  });

  it('are those of the body that looks inwards, not of the one beside it nor of an inner wall', () => {
    const beside = mesh([...boxPoints(0, 1), ...boxPoints(2, 3)], [...OUTWARD, ...second(INWARD)]);
    expect(faulty(beside, 'inward')).toEqual([6, 7, 8, 9, 10, 11]);
    const hollow = mesh([...boxPoints(0, 9), ...boxPoints(2, 3)], [...OUTWARD, ...second(INWARD)]);
    expect(faulty(hollow, 'inward')).toEqual([]);
  });

  it('are the one that is turned with the four that disagree with it', () => {
    const turned = OUTWARD.map((face, i) => (i === 0 ? face.toReversed() : face));
    // The face across, number 1 of a box whose faces come in pairs, meets no edge of it.
    expect(faulty(mesh(boxPoints(0, 1), turned), 'mixed')).toEqual([0, 2, 3, 4, 5]);
  });

  it('are the four around a hole', () => {
    expect(faulty(mesh(boxPoints(0, 1), OUTWARD.slice(1)), 'open')).toEqual([1, 2, 3, 4]);
  });

  it('are the later of two upon each other, and one whose corners lie in a line', () => {
    expect(faulty(mesh(boxPoints(0, 1), [...OUTWARD, OUTWARD[2]]), 'doubled')).toEqual([6]);
    expect(
      faulty(
        mesh(
          [0, 0, 0, 1, 0, 0, 2, 0, 0, 0, 1, 0],
          [
            [0, 1, 2],
            [0, 1, 3],
          ],
        ),
        'degenerate',
      ),
    ).toEqual([0]);
  });

  it('are those whose normals point the other way, or are none', () => {
    const values = Float64Array.from([-1, 0, 0, 1, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, -1, 0, 0, 1]);
    const normals = (change: (list: Float64Array) => void) => {
      const changed = values.slice();
      change(changed);
      return mesh(boxPoints(0, 1), OUTWARD, {
        normals: { name: 'n', size: 3, domain: 'face', values: changed, index: null },
      });
    };
    expect(
      faulty(
        normals(() => {}),
        'against',
      ),
    ).toEqual([]);
    expect(
      faulty(
        normals((list) => list.set([0, 1, 0], 6)),
        'against',
      ),
    ).toEqual([2]);
    expect(
      faulty(
        normals((list) => list.set([0, 0, 0], 9)),
        'brokenNormals',
      ),
    ).toEqual([3]);
  });

  it('are those that have no area in UVs or reach beyond the image', () => {
    const uvs = (list: number[]) => ({
      uvSets: [
        {
          name: 'uv',
          size: 2 as const,
          domain: 'corner' as const,
          values: Float64Array.from(list),
          index: null,
        },
      ],
    });
    const cards = mesh(
      [0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0],
      [
        [0, 1, 2],
        [1, 3, 2],
      ],
      uvs([0, 0, 1, 0, 0, 1, 0.5, 0.5, 0.5, 0.5, 0.5, 0.5]),
    );
    expect(faulty(cards, 'uvCollapsed')).toEqual([1]);
    const beyond = mesh(
      [0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0],
      [
        [0, 1, 2],
        [1, 3, 2],
      ],
      uvs([0, 0, 1.0005, 0, 0, 1, 0, 0, 1.2, 0, 0, 1]),
    );
    expect(faulty(beyond, 'uvOutside')).toEqual([1]);
  });
});
