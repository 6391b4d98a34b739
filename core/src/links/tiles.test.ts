import { describe, expect, it } from 'vitest';
import { groupTiles, holesIn, isTilePattern, normalisePattern, tileOfPath, tilesInWords } from './tiles.ts';

describe('tiles', () => {
  it.each([
    ['t/hull.1001.exr', 't/hull.<UDIM>.exr', 1001],
    ['t/hull_1012.png', 't/hull_<UDIM>.png', 1012],
    ['hull_u2_v3.tif', 'hull_<UDIM>.tif', 1022],
    ['hull_4k.1003.exr', 'hull_4k.<UDIM>.exr', 1003],
  ])('%s is a tile of %s', (path, pattern, number) => {
    expect(tileOfPath(path)).toMatchObject({ pattern, number });
  });

  it.each(['hull.1000.exr', 'hull_2048.png', 'hull.png', 'hull1001.png', 'uv_grid.png'])(
    '%s is no tile',
    (path) => {
      expect(tileOfPath(path)).toBeNull();
    },
  );

  it('takes the three placeholders for one', () => {
    for (const written of ['a/hull.<UDIM>.exr', 'a/hull.<uvtile>.exr', 'a/hull.%(UDIM)d.exr']) {
      expect(isTilePattern(written)).toBe(true);
      expect(normalisePattern(written)).toBe('a/hull.<UDIM>.exr');
    }
  });

  it('counts u and v from 0 where a set has a 0, else from 1', () => {
    const numbers = (paths: string[]) => [...groupTiles(paths).values()][0].tiles.map(({ number }) => number);
    expect(numbers(['a_u0_v0.png', 'a_u1_v0.png', 'a_u0_v1.png'])).toEqual([1001, 1002, 1011]);
    expect(numbers(['a_u1_v1.png', 'a_u2_v1.png'])).toEqual([1001, 1002]);
  });

  it('makes a set of two tiles and more, never of one', () => {
    expect([...groupTiles(['a.1001.png', 'b.1001.png', 'b.1002.png', 'c.png']).keys()]).toEqual([
      'b.<UDIM>.png',
    ]);
  });

  it('finds holes within a row only', () => {
    const tiles = (...numbers: number[]) => numbers.map((number) => ({ number, path: '' }));
    expect(holesIn(tiles(1001, 1002, 1004, 1011))).toEqual([1003]);
    expect(holesIn(tiles(1001, 1012, 1014))).toEqual([1013]);
    expect(holesIn(tiles(1001, 1011, 1021))).toEqual([]);
  });

  it('says runs in words', () => {
    expect(tilesInWords([1003, 1001, 1002, 1011, 1013, 1014])).toBe('1001 to 1003, 1011, 1013, 1014');
  });
});
