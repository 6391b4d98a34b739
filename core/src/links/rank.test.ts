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
  const rank = (written: string, paths: string[]) => rankCandidates(written, 'm/a.obj', buildFileIndex(paths));

  it('gives the reason and says what is safe', () => {
    expect(rank('C:\\x\\tex\\hull.png', ['m/tex/hull.png'])[0]).toMatchObject({ reasons: ['same relative path', 'same folder tex'], safe: true });
    expect(rank('hull.tif', ['m/HULL.png'])[0]).toMatchObject({ path: 'm/HULL.png', safe: true, reasons: ['same stem, type png for tif'] });
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
    expect(findCounterpart('C:\\t\\brass_roughness.png', classifyNames(['t/steel_gloss.png', 't/brass_glossiness.png']))?.path).toBe('t/brass_glossiness.png');
    expect(findCounterpart('brass_normal.png', classifyNames(['t/brass_glossiness.png']))).toBeNull();
  });
});

describe('harder paths', () => {
  const first = (written: string, files: Parameters<typeof buildFileIndex>[0]) => rankCandidates(written, 'm/a.obj', buildFileIndex(files))[0];

  it('undoes UTF-8 that was taken for Latin-1', () => {
    const mangled = Buffer.from('möwe.png').toString('latin1');
    expect(first(`C:\\t\\${mangled}`, ['m/möwe.png'])).toMatchObject({ path: 'm/möwe.png', safe: true, reasons: [expect.stringContaining('encoding')] });
  });

  it('meets composed and decomposed accents', () => {
    expect(first('t/möwe.png'.normalize('NFD'), ['m/t/möwe.png'])).toMatchObject({ safe: true });
    expect(first('t/möwe.png', ['m/t/mowe.png'])).toMatchObject({ reasons: ['same name but for case or accents', 'same folder t'] });
  });

  it('offers close spellings, never as safe, and never another number', () => {
    expect(first('hull_roughnes.png', ['m/hull_roughness.png'])).toMatchObject({ safe: false, reasons: ['close spelling, 1 letter apart'] });
    expect(first('plank_01_ao.png', ['m/plank_02_ao.png'])).toBeUndefined();
  });

  it('takes equal pixels under two names for no doubt', () => {
    const files = ['x', 'y'].map((folder) => ({ path: `m/${folder}/hull.png`, sha256: 'abc' }));
    expect(first('hull.png', files)).toMatchObject({ safe: true, reasons: ['same name', expect.stringContaining('same pixels')] });
    expect(first('hull.png', [files[0], { path: 'm/y/hull.png', sha256: 'def' }])).toMatchObject({ safe: false });
  });

  it('ranks tile sets as one', () => {
    expect(first('D:\\tex\\hull.<UDIM>.exr', ['m/tex/hull.1001.exr', 'm/tex/hull.1002.exr', 'm/tex/hull.png'])).toMatchObject({
      path: 'm/tex/hull.<UDIM>.exr',
      safe: true,
    });
  });

  it('prefers the own parcel to search folders', () => {
    const ranked = rankCandidates('hull.png', 'm/a.obj', buildFileIndex(['search/1/hull.png', 'm/t/hull.png']));
    expect(ranked.map(({ path }) => path)).toEqual(['m/t/hull.png', 'search/1/hull.png']);
  });
});

describe('siblings of another channel', () => {
  it('are no close spelling', () => {
    const paths = (written: string, ...files: string[]) => rankCandidates(written, 'crate.obj', buildFileIndex(files)).map(({ path }) => path);
    expect(paths('crate_d.png', 'crate_m.png', 'crate_n.png')).toEqual([]);
    expect(paths('crate_lid_color.png', 'crate_lod_color.png')).toEqual(['crate_lod_color.png']);
  });
});
