import { describe, expect, it } from 'vitest';
import type { NormalRange } from '../scene/material.ts';
import { changeNormal, repairNormal } from './normalRepair.ts';
import { fitLine, SKETCH, sketchOf, sketchPlane } from './sketch.ts';

describe('a sketch', () => {
  it('is the mean of each cell, row after row, component after component', () => {
    // 64 by 64: each cell is 2 by 2 pixels. Red is the column's number, green the row's, blue full.
    const data = new Uint8Array(64 * 64 * 3);
    for (let i = 0; i < 64 * 64; i += 1) data.set([(i % 64) * 2, Math.floor(i / 64) * 4, 255], i * 3);
    const sketch = sketchOf({ width: 64, height: 64, components: 3, data });
    const cell = (component: 'luminance' | number, column: number, row: number) =>
      (sketchPlane(sketch, component)?.[row * SKETCH + column] ?? Number.NaN) * 255;
    // Columns 10 and 11 of the image hold 20 and 22.
    expect(cell(0, 5, 0)).toBeCloseTo(21, 6);
    expect(cell(0, 5, 31)).toBeCloseTo(21, 6);
    expect(cell(1, 0, 3)).toBeCloseTo(26, 6);
    expect(cell(2, 9, 9)).toBeCloseTo(255, 6);
    expect(cell('luminance', 5, 3)).toBeCloseTo(0.2126 * 21 + 0.7152 * 26 + 0.0722 * 255, 6);
    expect(sketchPlane(sketch, 3)).toBeNull();
  });

  it('of few pixels repeats them, and numbers beyond the range end there', () => {
    const sketch = sketchOf({ width: 2, height: 1, components: 1, data: Float32Array.of(-1, 3) });
    const plane = sketchPlane(sketch, 0) as Float64Array;
    expect([plane[0], plane[15], plane[16], plane[31], plane[SKETCH * SKETCH - 1]]).toEqual([0, 0, 1, 1, 1]);
    // Grey has its one component for brightness.
    expect(sketchPlane(sketch, 'luminance')).toEqual(plane);
  });
});

describe('a line through points', () => {
  it('has the slope and the correlation of least squares', () => {
    const x = Float64Array.of(0, 0.25, 0.5, 1);
    expect(
      fitLine(
        x,
        x.map((value) => 0.2 + 0.5 * value),
      ),
    ).toEqual({ slope: expect.closeTo(0.5, 12), correlation: expect.closeTo(1, 12) });
    expect(
      fitLine(
        x,
        x.map((value) => 1 - 2 * value),
      ),
    ).toEqual({ slope: expect.closeTo(-2, 12), correlation: expect.closeTo(-1, 12) });
    // By hand: means 0.5 and 0.5, sums of products xx = 0.5, yy = 1, xy = 0.5.
    const fit = fitLine(Float64Array.of(0, 0, 1, 1), Float64Array.of(0, 1, 1, 1)) as {
      slope: number;
      correlation: number;
    };
    expect(fit.slope).toBeCloseTo(0.5, 12);
    expect(fit.correlation).toBeCloseTo(0.5 / Math.sqrt(1 * 0.75), 12);
  });

  it('is none where one of both stands still', () => {
    expect(fitLine(Float64Array.of(0.5, 0.5, 0.505), Float64Array.of(0, 1, 0))).toBeNull();
    expect(fitLine(Float64Array.of(0, 1, 0), Float64Array.of(0.5, 0.5, 0.5))).toBeNull();
  });
});

describe('normals', () => {
  const stored = (x: number, y: number, z: number): [number, number, number] => [
    x / 2 + 0.5,
    y / 2 + 0.5,
    z / 2 + 0.5,
  ];
  const near = (found: number[], expected: number[]) =>
    expected.forEach((component, i) => expect(found[i]).toBeCloseTo(component, 9));

  it('are brought to length 1, or their blue is made anew', () => {
    near(repairNormal(stored(0.3, 0, 0.4), 'unit'), stored(0.6, 0, 0.8));
    near(repairNormal(stored(0.6, 0, -1), 'blue'), stored(0.6, 0, 0.8));
    near(repairNormal(stored(0.6, 0.48, 1), 'blue'), stored(0.6, 0.48, 0.64));
    // Beyond the circle the vector lies flat.
    near(repairNormal(stored(1, 1, 1), 'blue'), stored(Math.SQRT1_2, Math.SQRT1_2, 0));
    expect(repairNormal(stored(0, 0, 0), 'unit')).toEqual([0.5, 0.5, 1]);
  });

  it('lean as strongly as they are told to', () => {
    const lean = Math.hypot(0.3, 0.8);
    near(changeNormal(stored(0.6, 0, 0.8), { strength: 0.5 }), stored(0.3 / lean, 0, 0.8 / lean));
    near(changeNormal(stored(0.6, 0, 0.8), {}), stored(0.6, 0, 0.8));
    // Read as 1, 0.5 and 2 times the numbers less 0.4, 0.3 and 1: (0.4, 0.1, 0.8), nine tenths long.
    const range: NormalRange = { scale: [1, 0.5, 2], bias: [-0.4, -0.3, -1] };
    near(changeNormal([0.8, 0.8, 0.9], { range }), stored(4 / 9, 1 / 9, 8 / 9));
    near(changeNormal(stored(0.3, 0, 0.4), { repair: 'unit' }), stored(0.6, 0, 0.8));
    near(changeNormal(stored(0.3, 0, 0.4), {}), stored(0.3, 0, 0.4));
    near(changeNormal(stored(0.6, 0, 0), { repair: 'blue', strength: 0 }), stored(0, 0, 1));
  });
});
