import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { combineSources } from './combineSources.ts';
import { extensionOf, fileName, folderOf, memorySource, stemOf } from './fileSource.ts';
import { DEFAULT_LIMITS, limitsFromEnvironment, limitVariable, pastLimit } from './limits.ts';
import { cleanName, createNamer } from './names.ts';

const bytes = (text: string) => new TextEncoder().encode(text);

describe('names that are safe anywhere', () => {
  it.each([
    ['Hull', 'Hull'],
    ['Möwe über Ærø', 'Mowe_uber_r'],
    ['Straße', 'Strasse'],
    ['oak & <tar>', 'oak_tar'],
    ['__lead__', 'lead'],
    ['a   b', 'a_b'],
    ['日本', 'part'],
    ['', 'part'],
    ['a-b_c', 'a-b_c'],
  ])('%j becomes %s', (name, clean) => {
    expect(cleanName(name)).toBe(clean);
  });

  it('are never empty, never long, and stay as they are the second time', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 300 }), (name) => {
        const clean = cleanName(name, 'thing');
        expect(clean).toMatch(/^[A-Za-z0-9_-]{1,120}$/);
        if (clean.length < 120) expect(cleanName(clean)).toBe(clean);
      }),
    );
  });

  it('are handed out once each, whatever their case', () => {
    const name = createNamer();
    expect(['Hull', 'hull', 'HULL', 'Hull_2', '', ''].map((one) => name(one))).toEqual([
      'Hull',
      'hull_2',
      'HULL_3',
      'Hull_2_2',
      'part',
      'part_2',
    ]);
  });

  it('go to those who ask for just them, where they are kept', () => {
    const name = createNamer(['Hull', 'hull_2', 'Deck']);
    expect(['Hull', 'Hull', 'Hull', 'Hull_2', 'hull_2', 'Deck'].map((one) => name(one))).toEqual([
      'Hull',
      'Hull_3',
      'Hull_4',
      'Hull_2',
      'hull_2_2',
      'Deck',
    ]);
  });
});

describe('paths', () => {
  it('come apart into folder, name, stem and type', () => {
    const path = 'maps/old/Hull.Color.PNG';
    expect([folderOf(path), fileName(path), stemOf(path), extensionOf(path)]).toEqual([
      'maps/old',
      'Hull.Color.PNG',
      'Hull.Color',
      'png',
    ]);
    expect([folderOf('hull'), fileName('hull'), stemOf('hull'), extensionOf('hull')]).toEqual([
      '',
      'hull',
      'hull',
      '',
    ]);
  });
});

describe('several sources as one', () => {
  const base = memorySource('quay', { 'a.png': bytes('own'), 'b.png': bytes('own b') });
  const shelf = memorySource('shelf', { 'a.png': bytes('shelf') });
  const attic = memorySource('attic', { 'maps/c.png': bytes('attic') });

  it('have their files under prefixes of their own', async () => {
    const all = combineSources(base, [shelf, attic]);
    expect(all.files.map(({ path }) => path).sort()).toEqual([
      'a.png',
      'b.png',
      'search/1/a.png',
      'search/2/maps/c.png',
    ]);
    const text = async (path: string) => new TextDecoder().decode(await all.read(path));
    expect(await text('a.png')).toBe('own');
    expect(await text('search/1/a.png')).toBe('shelf');
    expect(await text('search/2/maps/c.png')).toBe('attic');
    await expect(all.read('search/1/maps/c.png')).rejects.toMatchObject({ place: expect.anything() });
    expect(combineSources(base, [])).toBe(base);
  });
});

describe('limits', () => {
  it('are raised by the environment, each by its own name', () => {
    expect(limitVariable('fileBytes')).toBe('KINKAJOU_LIMIT_FILE_BYTES');
    expect(limitsFromEnvironment({})).toEqual(DEFAULT_LIMITS);
    expect(limitsFromEnvironment({ KINKAJOU_LIMIT_ENTRIES: '7' })).toEqual({ ...DEFAULT_LIMITS, entries: 7 });
  });

  it.each(['0', '-1', 'many', ''])('cannot be %j', (text) => {
    expect(() => limitsFromEnvironment({ KINKAJOU_LIMIT_PIXELS: text })).toThrow(/KINKAJOU_LIMIT_PIXELS is/);
  });

  it('say which, how much, and how to raise them', () => {
    const error = pastLimit('pixels', 'sail.png', 900_000_000, 268_435_456);
    expect(error.code).toBe('limit.pixels');
    expect(error.toText()).toContain('sail.png');
    expect(error.toText()).toContain('900,000,000 pixels in one image, and the limit is 268,435,456');
    expect(error.toText()).toContain('KINKAJOU_LIMIT_PIXELS');
  });
});
