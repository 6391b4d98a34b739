import { describe, expect, it } from 'vitest';
import { classifyNames } from '../maps/classifyName.ts';
import { buildFileIndex } from './fileIndex.ts';
import { findCounterpart, rankCandidates, resolveExactly } from './rank.ts';
import { parseWrittenPath } from './writtenPath.ts';

describe('written paths', () => {
  it.each([
    ['D:\\quay\\a\\b.png', ['quay', 'a', 'b.png'], true],
    ['\\\\host\\share\\b.png', ['host', 'share', 'b.png'], true],
    ['file:///C:/my%20maps/b.png', ['my maps', 'b.png'], true],
    ['../tex/./b.png', ['tex', 'b.png'], false],
  ])('%s', (written, parts, absolute) => {
    expect(parseWrittenPath(written)).toMatchObject({ parts, absolute });
  });
});

describe('candidates', () => {
  const rank = (written: string, paths: string[]) =>
    rankCandidates(written, 'm/a.obj', buildFileIndex(paths));

  it('gives the reason and says what is safe', () => {
    expect(rank('C:\\x\\tex\\hull.png', ['m/tex/hull.png'])[0]).toMatchObject({
      reasons: ['same relative path', 'same folder tex'],
      safe: true,
    });
    expect(rank('hull.tif', ['m/HULL.png'])[0]).toMatchObject({
      path: 'm/HULL.png',
      safe: true,
      reasons: ['same stem, type png for tif'],
    });
    expect(rank('hull.png', ['m/hull_2k.png'])[0]).toMatchObject({ safe: false });
  });

  it('is never safe between two of the same name', () => {
    expect(rank('hull.png', ['a/hull.png', 'b/hull.png']).some((candidate) => candidate.safe)).toBe(false);
  });

  it('finds exactly only what the path names', () => {
    const index = buildFileIndex(['m/tex/a.png']);
    expect(resolveExactly('tex\\a.png', null, 'm/a.obj', index)).toBe('m/tex/a.png');
    expect(resolveExactly('C:\\tex\\a.png', 'tex\\a.png', 'm/a.fbx', index)).toBe('m/tex/a.png');
    expect(resolveExactly('C:\\tex\\a.png', null, 'm/a.fbx', index)).toBeNull();
    expect(resolveExactly('../../tex/a.png', null, 'm/a.fbx', index)).toBeNull();
  });

  it('offers glossiness where roughness is missing', () => {
    expect(
      findCounterpart(
        'C:\\t\\brass_roughness.png',
        classifyNames(['t/steel_gloss.png', 't/brass_glossiness.png']),
      )?.path,
    ).toBe('t/brass_glossiness.png');
    expect(findCounterpart('brass_normal.png', classifyNames(['t/brass_glossiness.png']))).toBeNull();
  });
});

describe('harder paths', () => {
  const first = (written: string, files: Parameters<typeof buildFileIndex>[0]) =>
    rankCandidates(written, 'm/a.obj', buildFileIndex(files))[0];

  // Written by Python: the bytes in one encoding, decoded as another.
  it.each([
    ['größe', 'gr\xc3\xb6\xc3\x9fe', 'UTF-8 taken for Latin-1'],
    ['größe', 'gr\xc3\xb6\xc3\u0178e', 'UTF-8 taken for code page 1252'],
    ['größe', 'gr\u251c\u2562\u251c\u0192e', 'UTF-8 taken for code page 437'],
    ['größe', 'gr\u221a\u2202\u221a\xfce', 'UTF-8 taken for Mac Roman'],
    ['größe', 'gr\x94\xe1e', 'code page 437 taken for Latin-1'],
    ['法線', '\x96@\x90\xfc', 'Shift JIS taken for Latin-1'],
    ['颜色', '\u2564\u2552\u2554\xbd', 'GBK taken for code page 437'],
    ['цвет', '\xf6\xe2\xe5\xf2', 'code page 1251 taken for Latin-1'],
    ['색상', '\xbb\xf6\xbb\xf3', 'EUC-KR taken for code page 1252'],
  ])('undoes what was taken for another encoding: %s, %s (%s)', (name, mangled) => {
    const reasons = [expect.stringContaining('encoding')];
    const others = ['m/gross.png', 'm/hull_法.png', 'm/naïve.png'];
    // Either may be the mangled one: the model's words, or names out of an archive.
    expect(first(`C:\\t\\${mangled}.png`, [`m/${name}.png`, ...others])).toMatchObject({
      path: `m/${name}.png`,
      safe: true,
      reasons,
    });
    expect(first(`C:\\t\\${name}.png`, [`m/${mangled}.png`, ...others])).toMatchObject({
      path: `m/${mangled}.png`,
      safe: true,
      reasons,
    });
    expect(first(`${mangled}.tif`, [`m/${name}.png`])).toMatchObject({
      safe: true,
      reasons: ['same name once its encoding is undone, type png for tif'],
    });
    // What it is already comes first.
    expect(first(`${mangled}.png`, [`m/${name}.png`, `m/${mangled}.png`])).toMatchObject({
      path: `m/${mangled}.png`,
    });
  });

  it('meets composed and decomposed accents', () => {
    expect(first('t/möwe.png'.normalize('NFD'), ['m/t/möwe.png'])).toMatchObject({ safe: true });
    expect(first('t/möwe.png', ['m/t/mowe.png'])).toMatchObject({
      reasons: ['same name but for case or accents', 'same folder t'],
    });
  });

  it('offers close spellings, never as safe, and never another number', () => {
    expect(first('hull_roughnes.png', ['m/hull_roughness.png'])).toMatchObject({
      safe: false,
      reasons: ['close spelling, 1 letter apart'],
    });
    expect(first('plank_01_ao.png', ['m/plank_02_ao.png'])).toBeUndefined();
  });

  it('takes equal pixels under two names for no doubt', () => {
    const files = ['x', 'y'].map((folder) => ({ path: `m/${folder}/hull.png`, sha256: 'abc' }));
    expect(first('hull.png', files)).toMatchObject({
      safe: true,
      reasons: ['same name', expect.stringContaining('same pixels')],
    });
    expect(first('hull.png', [files[0], { path: 'm/y/hull.png', sha256: 'def' }])).toMatchObject({
      safe: false,
    });
  });

  it('ranks tile sets as one', () => {
    expect(
      first('D:\\tex\\hull.<UDIM>.exr', ['m/tex/hull.1001.exr', 'm/tex/hull.1002.exr', 'm/tex/hull.png']),
    ).toMatchObject({
      path: 'm/tex/hull.<UDIM>.exr',
      safe: true,
    });
  });

  it('prefers the own parcel to search folders', () => {
    const ranked = rankCandidates(
      'hull.png',
      'm/a.obj',
      buildFileIndex(['search/1/hull.png', 'm/t/hull.png']),
    );
    expect(ranked.map(({ path }) => path)).toEqual(['m/t/hull.png', 'search/1/hull.png']);
  });
});

describe('siblings of another channel', () => {
  it('are no close spelling', () => {
    const paths = (written: string, ...files: string[]) =>
      rankCandidates(written, 'crate.obj', buildFileIndex(files)).map(({ path }) => path);
    expect(paths('crate_d.png', 'crate_m.png', 'crate_n.png')).toEqual([]);
    expect(paths('crate_lid_color.png', 'crate_lod_color.png')).toEqual(['crate_lod_color.png']);
  });
});

const OTHER = '0f3b1c2d-0000-4000-8000-00000000000a';

describe('the order of candidates', () => {
  /** Without a bonus for lying near: the model lies elsewhere. */
  const scores = (written: string, files: Parameters<typeof buildFileIndex>[0], most?: number) =>
    rankCandidates(written, 'model/a.obj', buildFileIndex(files), most).map(({ path, score, safe }) => [
      path,
      score,
      safe,
    ]);

  it('follows the table of reasons', () => {
    expect(
      scores('E:\\art\\tex\\Möwe.png', [
        'art/tex/Möwe.png',
        'x/Möwe.png',
        'x/mowe.PNG',
        'x/Möwe.tif',
        'x/moewe.png',
        'x/möwe_2k.tga',
      ]),
    ).toEqual([
      // Two folders agree: 0.95 + 0.01 * 2 + 0.01.
      ['art/tex/Möwe.png', 0.98, true],
      ['x/Möwe.png', 0.95, false],
      ['x/mowe.PNG', 0.93, false],
      ['x/Möwe.tif', 0.91, false],
      ['x/möwe_2k.tga', 0.7, false],
    ]);
  });

  it('counts the folders that agree from the end, case aside, and no more than three hundredths of them', () => {
    const score = (written: string, path: string) => scores(written, [path])[0][1];
    expect(score('E:/tex/hull.png', 'other/hull.png')).toBe(0.95);
    expect(score('E:/tex/hull.png', 'TEX/hull.png')).toBe(0.97);
    expect(score('E:/art/tex/hull.png', 'b/tex/hull.png')).toBe(0.97);
    expect(score('E:/tex/art/hull.png', 'tex/b/hull.png')).toBe(0.95);
    expect(score('E:/a/b/c/d/e/hull.png', 'a/b/c/d/e/hull.png')).toBe(0.99);
  });

  it('sets files elsewhere back and says where they are', () => {
    expect(scores('hull.png', ['search/4/hull.png', `parcels/${OTHER}/hull.png`, 'x/hull.tif'])).toEqual([
      [`parcels/${OTHER}/hull.png`, 0.938, false],
      ['search/4/hull.png', 0.938, false],
      ['x/hull.tif', 0.91, false],
    ]);
    const reasons = rankCandidates(
      'hull.png',
      'model/a.obj',
      buildFileIndex(['search/4/hull.png', `parcels/${OTHER}/hull.png`]),
    ).map((one) => one.reasons);
    expect(reasons).toEqual([
      ['same name', 'in another parcel'],
      ['same name', 'in a search folder'],
    ]);
  });

  it('prefers what lies near the model by thousandths: beside it, then one and two folders below', () => {
    expect(
      rankCandidates(
        'hull.png',
        'm/a.obj',
        buildFileIndex(['x/hull.png', 'm/p/q/hull.png', 'm/hull.png', 'm/p/hull.png']),
      ).map(({ path, score }) => [path, score]),
    ).toEqual([
      ['m/hull.png', 0.953],
      ['m/p/hull.png', 0.952],
      ['m/p/q/hull.png', 0.951],
      ['x/hull.png', 0.95],
    ]);
  });

  it('is safe from 0.9 on, where no rival comes within five thousandths', () => {
    const safe = (files: string[]) =>
      rankCandidates('E:/tex/hull.png', 'm/a.obj', buildFileIndex(files))[0].safe;
    // Same stem of another type, 0.91.
    expect(safe(['x/hull.tif'])).toBe(true);
    expect(safe(['x/hull_2k.png'])).toBe(false);
    // 0.953 beside 0.95.
    expect(safe(['m/hull.png', 'x/hull.png'])).toBe(false);
    // 0.97 beside 0.95.
    expect(safe(['x/tex/hull.png', 'x/hull.png'])).toBe(true);
  });

  it('measures spellings: half for one letter, 0.4 for two, and none beyond', () => {
    expect(scores('harbourlight.png', ['harbourlihgt.png', 'harbourligt.png', 'harbrlgt.png'])).toEqual([
      ['harbourligt.png', 0.5, false],
      ['harbourlihgt.png', 0.4, false],
    ]);
    // Where a better reason is there, no spelling is looked for.
    expect(scores('harbourlight.png', ['x/harbourlight.png', 'harbourligt.png'])).toEqual([
      ['x/harbourlight.png', 0.95, true],
    ]);
    expect(
      rankCandidates('harbourlight.png', 'model/a.obj', buildFileIndex(['harbourlihgt.png']))[0].reasons,
    ).toEqual(['close spelling, 2 letters apart']);
  });

  it('ends after as many as are asked for, and has none for no name', () => {
    const files = Array.from({ length: 12 }, (_, i) => `x/${i}/hull.png`);
    expect(scores('hull.png', files)).toHaveLength(8);
    expect(scores('hull.png', files, 3)).toHaveLength(3);
    expect(scores('D:\\', files)).toEqual([]);
  });
});

describe('tile sets', () => {
  const rank = (written: string, files: string[]) =>
    rankCandidates(written, 'model/a.obj', buildFileIndex(files)).map(({ path, score, reasons }) => [
      path,
      score,
      reasons[0],
      reasons[1],
    ]);
  const set = (pattern: string, ...numbers: number[]) =>
    numbers.map((number) => pattern.replace('*', String(number)));

  it('are ranked by name, stem and bare stem, each with its span', () => {
    const files = [
      ...set('art/tex/hull.*.exr', 1001, 1002),
      ...set('x/hull.*.exr', 1001, 1003),
      ...set('x/Hull.*.tif', 1001, 1002),
      ...set('x/hull_4k.*.png', 1001, 1002),
      ...set('x/deck.*.exr', 1001, 1002),
      'x/hull.exr',
    ];
    expect(rank('E:\\art\\tex\\hull.<UDIM>.exr', files)).toEqual([
      ['art/tex/hull.<UDIM>.exr', 0.99, 'same relative path', 'tile set of 2: 1001, 1002'],
      ['x/hull.<UDIM>.exr', 0.95, 'same name', 'tile set of 2: 1001, 1003'],
      ['x/Hull.<UDIM>.tif', 0.91, 'same stem, type tif', 'tile set of 2: 1001, 1002'],
      [
        'x/hull_4k.<UDIM>.png',
        0.7,
        'same stem but for resolution, version or separators',
        'tile set of 2: 1001, 1002',
      ],
    ]);
  });

  it('are found by any word for the tile', () => {
    for (const written of ['hull.%(UDIM)d.exr', 'hull.<udim>.exr', 'hull.1001.exr'])
      expect(rank(written, set('x/hull.*.exr', 1001, 1002))[0].slice(0, 1)).toEqual([
        written.includes('1001') ? 'x/hull.1001.exr' : 'x/hull.<UDIM>.exr',
      ]);
  });

  it('are resolved exactly from the model’s folder', () => {
    const index = buildFileIndex(set('model/tex/hull.*.exr', 1001, 1002));
    expect(resolveExactly('tex/hull.<UDIM>.exr', null, 'model/a.obj', index)).toBe(
      'model/tex/hull.<UDIM>.exr',
    );
    expect(resolveExactly('hull.<UDIM>.exr', null, 'model/a.obj', index)).toBeNull();
  });
});

describe('exact paths', () => {
  const index = buildFileIndex(['tex/a.png', 'm/b.png', 'm/tex/c.png']);

  it('are seen from the model’s folder, the relative one first, and may climb no higher than the parcel', () => {
    expect(resolveExactly('../tex/a.png', null, 'm/a.obj', index)).toBe('tex/a.png');
    expect(resolveExactly('./b.png', null, 'm/a.obj', index)).toBe('m/b.png');
    expect(resolveExactly('b.png', 'tex\\c.png', 'm/a.obj', index)).toBe('m/tex/c.png');
    expect(resolveExactly('b.png', '', 'm/a.obj', index)).toBe('m/b.png');
    expect(resolveExactly('../../tex/a.png', null, 'm/a.obj', index)).toBeNull();
    expect(resolveExactly('x/../tex/a.png', null, 'a.obj', index)).toBe('tex/a.png');
    expect(resolveExactly('tex/', null, 'a.obj', index)).toBeNull();
  });
});

describe('counterparts', () => {
  it('stand in both ways, of the same set and with the reason', () => {
    const names = classifyNames(['t/brass_roughness.png', 't/brass_metalness.png', 't/deck_roughness.png']);
    expect(findCounterpart('brass_gloss.png', names)).toEqual({
      path: 't/brass_roughness.png',
      reason: 'roughness of the same set lies in the parcel; inverted it gives glossiness',
    });
    expect(findCounterpart('rope_gloss.png', names)).toBeNull();
  });
});
