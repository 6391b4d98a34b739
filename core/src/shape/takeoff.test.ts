import { describe, expect, it } from 'vitest';
import { createDocument, createNode, type PolygonMesh } from '../scene/document.ts';
import { createMaterial } from '../scene/material.ts';
import { BOX_QUADS, meshOf } from '../test/boxes.ts';
import { takeOff } from './takeoff.ts';

interface Box {
  from: readonly [number, number, number];
  sides: readonly [number, number, number];
  /** Its faces look inwards. */
  inward?: boolean;
  slot?: number;
}

function boxes(list: readonly Box[]): PolygonMesh {
  const corner = (from: Box['from'], sides: Box['sides'], i: number) =>
    from.map((value, axis) => value + ((i >> axis) & 1) * sides[axis]);
  return meshOf(
    list.flatMap(({ from, sides }) => Array.from({ length: 8 }, (_, i) => corner(from, sides, i)).flat()),
    list.flatMap(({ inward }, b) =>
      BOX_QUADS.map((quad) => (inward ? [...quad].reverse() : quad).map((place) => b * 8 + place)),
    ),
    { faceMaterial: Int32Array.from(list.flatMap(({ slot = 0 }) => BOX_QUADS.map(() => slot))) },
  );
}

/** Volumes by material, in centimetres scaled by two along one axis. */
function volumesOf(list: readonly Box[], along = 1): (number | null)[] {
  const document = createDocument('fbx', 'made');
  document.metresPerUnit = 0.01;
  document.materials.push(createMaterial('Oak', 'metalRough'), createMaterial('Iron', 'metalRough'));
  document.meshes.push(boxes(list));
  const node = createNode('Frame', 'mesh', -1, { mesh: 0, materials: [0, 1] });
  node.transform.scale = [along, 2, 1];
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

  it('is what it is where the part stands mirrored', () => {
    expect(volumesOf([{ from: [0, 0, 0], sides: [10, 10, 10] }], -3)).toEqual([0.006]);
  });

  it('leaves out what lies within inner walls', () => {
    const hollow: Box[] = [
      { from: [0, 0, 0], sides: [10, 10, 10] },
      { from: [3, 3, 3], sides: [2, 2, 2], inward: true },
    ];
    expect(volumesOf(hollow)).toEqual([(992 * 2) / 1e6]);
  });
});
