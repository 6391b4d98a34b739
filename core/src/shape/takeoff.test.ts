import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type PolygonMesh } from '../scene/document.ts';
import { createMaterial } from '../scene/material.ts';
import { takeOff } from './takeoff.ts';

interface Box {
  from: readonly [number, number, number];
  sides: readonly [number, number, number];
  /** Its faces look inwards. */
  inward?: boolean;
  slot?: number;
}

/** Quads of a box whose corners count in binary, seen from outside against the clock. */
const QUADS = [
  [0, 4, 6, 2],
  [1, 3, 7, 5],
  [0, 1, 5, 4],
  [2, 6, 7, 3],
  [0, 2, 3, 1],
  [4, 5, 7, 6],
];

function boxes(list: readonly Box[]): PolygonMesh {
  return createMesh('boxes', {
    points: Float64Array.from(
      list.flatMap(({ from, sides }) =>
        Array.from({ length: 8 }, (_, i) => from.map((value, k) => value + ((i >> k) & 1) * sides[k])).flat(),
      ),
    ),
    faceCounts: new Uint32Array(list.length * 6).fill(4),
    faceCorners: Uint32Array.from(
      list.flatMap(({ inward }, b) =>
        QUADS.flatMap((quad) => (inward ? [...quad].reverse() : quad).map((corner) => b * 8 + corner)),
      ),
    ),
    faceMaterial: Int32Array.from(list.flatMap(({ slot = 0 }) => QUADS.map(() => slot))),
  });
}

/** Volumes by material, in centimetres scaled by two along one axis. */
function volumesOf(list: readonly Box[]): (number | null)[] {
  const document = createDocument('fbx', 'made');
  document.metresPerUnit = 0.01;
  document.materials.push(createMaterial('Oak', 'metalRough'), createMaterial('Iron', 'metalRough'));
  document.meshes.push(boxes(list));
  const node = createNode('Frame', 'mesh', -1, { mesh: 0, materials: [0, 1] });
  node.transform.scale = [1, 2, 1];
  document.nodes.push(node);
  return takeOff(document).map(({ volume }) => volume && Math.round(volume * 1e9) / 1e9);
}

describe('the volume of a part of several bodies', () => {
  it.each([
    ['is their sum', [{}, {}], [(1000 + 8) * 2]],
    ['counts one that looks inwards by mistake as a body', [{}, { inward: true }], [(1000 + 8) * 2]],
    ['counts all where all look inwards', [{ inward: true }, { inward: true }], [(1000 + 8) * 2]],
    ['is each material’s own', [{}, { slot: 1, inward: true }], [2000, 16]],
  ] as [string, Partial<Box>[], number[]][])('%s', (_, [big, small], expected) => {
    const found = volumesOf([
      { from: [0, 0, 0], sides: [10, 10, 10], ...big },
      { from: [30, 0, 0], sides: [2, 2, 2], ...small },
    ]);
    expect(found).toEqual(expected.map((cubes) => cubes / 1e6));
  });

  it('leaves out what lies within inner walls', () => {
    const hollow: Box[] = [
      { from: [0, 0, 0], sides: [10, 10, 10] },
      { from: [3, 3, 3], sides: [2, 2, 2], inward: true },
    ];
    expect(volumesOf(hollow)).toEqual([(992 * 2) / 1e6]);
  });
});
