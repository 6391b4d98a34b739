import { describe, expect, it } from 'vitest';
import { buildFileIndex, findCounterpart, rankCandidates, resolveExactly } from './rank.ts';
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
    expect(findCounterpart('C:\\t\\brass_roughness.png', ['t/steel_gloss.png', 't/brass_glossiness.png'])?.path).toBe('t/brass_glossiness.png');
    expect(findCounterpart('brass_normal.png', ['t/brass_glossiness.png'])).toBeNull();
  });
});
