import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { bareStem, buildFileIndex, foldName, PathLists, spellingKey } from './fileIndex.ts';

describe('a stem without its marks', () => {
  it.each([
    ['Hull_Color_4k', 'hullcolor'],
    ['hull-color.v02', 'hullcolor'],
    ['hull color 2048x1024 copy', 'hullcolor'],
    ['hull_16bit_raw', 'hull'],
    ['hull_u1', 'hull'],
    ['lowres_hull', 'hull'],
    // A tile's number counts at the end alone; any other number tells parts apart.
    ['hull_1001', 'hull'],
    ['1001_hull', '1001hull'],
    ['plank_02_diffuse', 'plank02diffuse'],
    ['hull_2001', 'hull2001'],
    ['hull_v', 'hullv'],
    ['hull_vast', 'hullvast'],
    ['hull_32k', 'hull'],
    ['hull_512k', 'hull512k'],
    // Letters beyond ASCII take the longer way round.
    ['Möwe_Farbe_4k', 'mowefarbe'],
    ['чайка_2k', 'чаика'],
    ['чайка_1002', 'чаика'],
    ['1002_чайка', '1002чаика'],
    ['чайка-02', 'чаика02'],
    ['', ''],
  ])('%s is %s', (stem, bare) => {
    expect(bareStem(stem)).toBe(bare);
  });
});

describe('keys of names', () => {
  it('fold case and accents, and nothing else', () => {
    expect(foldName('MÖWE_01.PNG')).toBe('mowe_01.png');
    expect(foldName('Straße')).toBe('straße');
    expect(foldName('Hull')).toBe('hull');
  });

  it('of spellings hold the first three letters and every number', () => {
    expect(spellingKey('Hull_07_Rough_2')).toBe('hul072');
    expect(spellingKey('rope1')).toBe('rop1');
    expect(spellingKey('rope')).toBeNull();
  });

  it('list all files that share one', () => {
    const lists = new PathLists();
    expect(lists.get('a')).toEqual([]);
    for (const path of ['1', '2', '3']) lists.add('a', path);
    lists.add('b', '4');
    expect([lists.get('a'), lists.get('b')]).toEqual([['1', '2', '3'], ['4']]);
  });
});

describe('an index of files', () => {
  const index = buildFileIndex([
    { path: 'T/Hull.PNG', sha256: 'aa' },
    'T/hull.tar.gz',
    'T/.hidden',
    'u/mo\u0308we.png',
    't/hull_4k.tif',
  ]);

  it('finds a file by each way of naming it', () => {
    expect([...index.paths]).toHaveLength(5);
    // However it is written, and whatever its type.
    for (const name of ['Hull.PNG', 'hull.png', 'HULL.tif', 'hull_v2.exr', 'hull'])
      expect(index.ofSameStem(name), name).toEqual(['T/Hull.PNG', 't/hull_4k.tif']);
    for (const name of ['m\u00f6we.png', 'mo\u0308we.png', 'MOWE.jpg'])
      expect(index.ofSameStem(name), name).toEqual(['u/mo\u0308we.png']);
    expect(index.ofSameStem('hull.tar.zip')).toEqual(['T/hull.tar.gz']);
    // A name that begins with its only dot has no type.
    expect(index.ofSameStem('.hidden')).toEqual(['T/.hidden']);
    expect(index.ofSameStem('hulls.png')).toEqual([]);
    expect(index.byFoldedPath().get('t/hull.png')).toBe('T/Hull.PNG');
    expect(index.ofSameSpelling('hulk_4')).toEqual(['t/hull_4k.tif']);
    expect(index.ofSameSpelling('hull')).toEqual([]);
  });

  it('knows what has no stem of its own by all of its name', () => {
    const marks = buildFileIndex(['a/4k.png', 'b/2k.png', 'c/2K.tif', 'd/a_2k.png', 'e/a.png', 'f/_.png']);
    expect(marks.ofSameStem('2k.png')).toEqual(['b/2k.png', 'c/2K.tif']);
    expect(marks.ofSameStem('a.png')).toEqual(['e/a.png']);
    expect(marks.ofSameStem('_.png')).toEqual(['f/_.png']);
  });

  it('finds by hashes what it would find by names, and no more', () => {
    const word = fc.constantFrom('hull', 'Möwe', 'копия', 'u1', 'V02', '4k', '1001', '02', 'Copy', 'lo', 'a');
    const name = fc
      .array(fc.tuple(word, fc.constantFrom('_', '-', '', '.', ' ')), { minLength: 1, maxLength: 4 })
      .map((parts) => `${parts.flat().join('')}.png`);
    fc.assert(
      fc.property(fc.uniqueArray(name, { minLength: 1, maxLength: 12 }), name, (files, written) => {
        const paths = files.map((file) => `maps/${file}`);
        const found = buildFileIndex(paths);
        const stemOf = (file: string) => foldName(file).replace(/\.png$/, '');
        const bareOf = (file: string) => {
          const bare = bareStem(stemOf(file));
          return bare.length < 2 ? `/${stemOf(file)}` : bare;
        };
        expect(found.ofSameStem(written)).toEqual(
          paths.filter((_, i) => bareOf(files[i]) === bareOf(written)),
        );
        const key = spellingKey(stemOf(written));
        expect(found.ofSameSpelling(stemOf(written))).toEqual(
          paths.filter((_, i) => key !== null && spellingKey(stemOf(files[i])) === key),
        );
      }),
      { numRuns: 400 },
    );
  });

  it('judges channels of names whatever their numbers', () => {
    expect(index.isOtherChannel('plank_02_albedo', 'plank_02_normal')).toBe(true);
    expect(index.isOtherChannel('plank_17_albedo', 'plank_18_normal')).toBe(true);
    expect(index.isOtherChannel('plank_02_albedo', 'plank_02_albedos')).toBe(false);
    expect(index.isOtherChannel('plank_02_albedo', 'plank_02')).toBe(false);
  });

  it('knows the content where it was told', () => {
    expect([index.hashOf('T/Hull.PNG'), index.hashOf('T/.hidden'), index.hashOf('nowhere')]).toEqual([
      'aa',
      undefined,
      undefined,
    ]);
  });
});
