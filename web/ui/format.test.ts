import { describe, expect, it } from 'vitest';
import { bytes, count, day, extent, fileName, metres, plural, spaceLabel } from './format.ts';

describe('numbers as people read them', () => {
  it('counts and sizes', () => {
    expect([count(1234567), plural(1, 'face'), plural(2, 'face'), plural(0, 'mesh', 'meshes')]).toEqual([
      '1,234,567',
      '1 face',
      '2 faces',
      '0 meshes',
    ]);
    expect([0, 1023, 1024, 1536, 10 * 1024, 1024 ** 2, 5 * 1024 ** 3].map(bytes)).toEqual([
      '0 B',
      '1023 B',
      '1.0 KB',
      '1.5 KB',
      '10 KB',
      '1.0 MB',
      '5.0 GB',
    ]);
  });

  it('lengths with as many digits as matter', () => {
    expect([0.4251, 1.0515, 99.994, 100.4].map(metres)).toEqual(['0.425', '1.05', '99.99', '100']);
    expect(extent({ min: [-1, 0, 0], max: [1, 0.5, 120] })).toBe('2.00 × 0.500 × 120 m');
    expect(extent(null)).toBe('no geometry');
  });

  it('names, days and spaces', () => {
    expect([fileName('maps/a.png'), fileName('C:\\quay\\b.png'), fileName('c.png')]).toEqual([
      'a.png',
      'b.png',
      'c.png',
    ]);
    expect(day('2026-11-05T12:00:00Z')).toBe('5 Nov 2026');
    expect([spaceLabel('lin_ap1_scene'), spaceLabel('g22_ap1_scene')]).toEqual(['ACEScg', 'g22_ap1']);
  });
});
