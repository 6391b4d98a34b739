import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type SceneDocument } from '../scene/document.ts';
import { createMaterial } from '../scene/material.ts';
import { LAYOUT, layoutCells, measureUvLayouts } from './uvLayout.ts';

/** One quad whose corners have these coordinates. */
function quad(uvs: number[]): SceneDocument {
  const mesh = createMesh('quad', {
    points: Float64Array.from([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]),
    faceCounts: Uint32Array.of(4),
    faceCorners: Uint32Array.of(0, 1, 2, 3),
    uvSets: [{ name: 'map1', size: 2, domain: 'corner', values: Float64Array.from(uvs), index: null }],
  });
  return {
    ...createDocument('obj', ''),
    meshes: [mesh],
    nodes: [createNode('quad', 'mesh', -1, { mesh: 0, materials: [0] })],
    materials: [createMaterial('Paint', 'metalRough')],
  };
}

const rectangle = (left: number, low: number, right: number, high: number) => [
  left,
  low,
  right,
  low,
  right,
  high,
  left,
  high,
];

/** Covered cells as [first column, last column, first row, last row] and their number. */
function covered(uvs: number[]): { box: number[]; count: number; repeats: number } {
  const layout = measureUvLayouts(quad(uvs)).Paint;
  const cells = layoutCells(layout);
  const [columns, rows]: [number[], number[]] = [[], []];
  for (const [i, cell] of cells.entries()) {
    if (cell === 0) continue;
    columns.push(i % LAYOUT);
    rows.push(Math.floor(i / LAYOUT));
  }
  return {
    box: [Math.min(...columns), Math.max(...columns), Math.min(...rows), Math.max(...rows)],
    count: columns.length,
    repeats: layout.repeats,
  };
}

describe('where faces lie in their image', () => {
  it('go by the point where coordinates belong to points', () => {
    const document = quad(rectangle(0, 0, 0.5, 0.5));
    const [mesh] = document.meshes;
    // The quad begins at its second corner; its points keep their coordinates.
    mesh.faceCorners = Uint32Array.of(3, 0, 1, 2);
    mesh.uvSets[0].domain = 'point';
    mesh.uvSets[0].values = Float64Array.from([...rectangle(0, 0, 0.5, 0.5), 9, 9]);
    mesh.points = Float64Array.from([...mesh.points, 5, 5, 5]);
    const found = layoutCells(measureUvLayouts(document).Paint);
    expect(found.reduce((sum, cell) => sum + cell, 0)).toBe((LAYOUT / 2) ** 2);
    mesh.faceCorners = Uint32Array.of(0, 2, 2, 1);
    expect(layoutCells(measureUvLayouts(document).Paint)).not.toEqual(found);
  });

  it('covers just the cells of a rectangle, rows from the top', () => {
    // u 0.25 to 0.5 is columns 16 to 31; v 0.5 to 0.75 is rows 16 to 31 from the top.
    expect(covered(rectangle(0.25, 0.5, 0.5, 0.75))).toEqual({
      box: [16, 31, 16, 31],
      count: 256,
      repeats: 0,
    });
    expect(covered(rectangle(0, 0, 1, 1))).toEqual({ box: [0, 63, 0, 63], count: 4096, repeats: 0 });
    // The lower left corner of UV space is the lower left of the image.
    expect(covered(rectangle(0, 0, 1 / 64, 1 / 64)).box).toEqual([0, 0, 63, 63]);
  });

  it('covers half of the cells with a triangle', () => {
    const { count } = covered([0, 0, 1, 0, 1, 1, 1, 1]);
    expect(count / 4096).toBeGreaterThan(0.49);
    expect(count / 4096).toBeLessThan(0.53);
  });

  it('wraps other tiles into the image, and tells faces that reach beyond one', () => {
    expect(covered(rectangle(2.25, -0.5, 2.5, -0.25))).toEqual({
      box: [16, 31, 16, 31],
      count: 256,
      repeats: 0,
    });
    expect(covered(rectangle(0, 0, 3, 1)).repeats).toBe(1);
    expect(covered(rectangle(0, 0, 1000, 1000))).toMatchObject({ count: 4096, repeats: 1 });
  });

  it('passes over coordinates that are no numbers', () => {
    const layout = measureUvLayouts(quad([Number.NaN, 0, 1, 0, 1, 1, 0, 1])).Paint;
    expect(layoutCells(layout).every((cell) => cell === 0)).toBe(true);
  });
});
