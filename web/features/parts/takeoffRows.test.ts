import { describe, expect, it } from 'vitest';
import { measured, sumsOf } from './takeoffRows.ts';

const row = (part: string, material: string, area: number, volume: number | null) => ({
  part,
  material,
  faces: 6,
  area,
  volume,
});

describe('the takeoff', () => {
  it('sums by material, the largest area first, and names what does not close', () => {
    expect(
      sumsOf([
        row('tread', 'Timber', 2, 0.1),
        row('nail', 'Iron', 0.5, null),
        row('rail', 'Timber', 1, null),
        row('tread 2', 'Timber', 2, 0.1),
      ]),
    ).toEqual([
      { material: 'Timber', parts: 3, faces: 18, area: 5, volume: 0.2, open: ['rail'] },
      { material: 'Iron', parts: 1, faces: 6, area: 0.5, volume: 0, open: ['nail'] },
    ]);
  });

  it('shows four digits that count', () => {
    expect([0, 0.000123456, 1.23456, 12345.6].map(measured)).toEqual(['0', '0.0001235', '1.235', '12,350']);
  });
});
