import { describe, expect, it } from 'vitest';
import type { PixelBuffer } from '../images/pixelBuffer.ts';
import { judgeEncoding } from './judgeEncoding.ts';
import { contradiction, isNormalLike, judgePixels, lacksBlue, percent } from './judgePixels.ts';
import { lookAtPixels, type PixelFacts } from './pixelFacts.ts';

/** Facts of colours that say nothing in particular, changed where a test wants. */
function facts(more: Partial<PixelFacts> = {}): PixelFacts {
  const buffer: PixelBuffer = {
    width: 2,
    height: 2,
    components: 3,
    data: Uint8Array.from([0, 51, 102, 255, 204, 153, 0, 255, 51, 102, 0, 204]),
  };
  return {
    ...lookAtPixels(buffer),
    min: [0, 0, 0],
    max: [1, 1, 1],
    mean: [0.4, 0.4, 0.4],
    ends: [0.1, 0.1, 0.1],
    grey: 0,
    saturation: 0.1,
    unit: 0,
    disc: 0,
    length: 0,
    dark: 0,
    percentiles: [0.01, 0.05, 0.2, 0.25, 0.4, 0.6, 0.7],
    over: 0,
    codes: null,
    ...more,
  };
}

const NORMAL = {
  mean: [0.5, 0.5, 0.9],
  min: [0.1, 0.1, 0.4],
  max: [0.9, 0.9, 1],
  unit: 0.99,
  length: 1,
  disc: 1,
};

describe('the kind of an image', () => {
  it.each<[string, Partial<PixelFacts>, string, number]>([
    [
      'the same everywhere',
      { min: [0.2, 0.4, 0.6], max: [0.2, 0.4, 0.6], mean: [0.2, 0.4, 0.6] },
      'constant',
      1,
    ],
    ['unit vectors', NORMAL, 'normal', 0.95],
    ['vectors that are a little short', { ...NORMAL, unit: 0.6, length: 0.8 }, 'normal', 0.8],
    // Half of it is black: what holds vectors is as above.
    [
      'unit vectors on black',
      { ...NORMAL, mean: [0.25, 0.25, 0.45], min: [0, 0, 0], unit: 0.495, grey: 0.5, dark: 0.5 },
      'normal',
      0.95,
    ],
    [
      'a few unit vectors on black',
      { ...NORMAL, mean: [0.1, 0.1, 0.17], min: [0, 0, 0], unit: 0.19, grey: 0.81, dark: 0.81 },
      'emission',
      0.6,
    ],
    ['vectors some of which point down', { ...NORMAL, min: [0, 0, 0], unit: 0.61 }, 'normal', 0.8],
    ['too few vectors', { ...NORMAL, min: [0, 0, 0], unit: 0.6 }, 'unclear', 0.3],
    [
      'too little more blue',
      { ...NORMAL, mean: [0.55, 0.55, 0.79], min: [0, 0, 0], unit: 0.7 },
      'unclear',
      0.3,
    ],
    [
      'too little blue for vectors',
      { ...NORMAL, mean: [0.42, 0.42, 0.74], min: [0, 0, 0], unit: 0.7 },
      'unclear',
      0.3,
    ],
    ['grey', { grey: 0.98 }, 'grey', 0.9],
    ['not quite grey', { grey: 0.979 }, 'unclear', 0.3],
    ['two values', { grey: 1, ends: [0.97, 0.97, 0.97] }, 'mask', 0.9],
    ['nearly two values', { grey: 1, ends: [0.969, 0.97, 0.97] }, 'grey', 0.9],
    ['two values in colour', { ends: [1, 1, 1] }, 'unclear', 0.3],
    ['bright spots on black', { dark: 0.76, percentiles: [0, 0, 0, 0, 0, 0.2, 0.41] }, 'emission', 0.6],
    ['dim spots on black', { dark: 0.76, percentiles: [0, 0, 0, 0, 0, 0.2, 0.4] }, 'unclear', 0.3],
    ['spots that are too many', { dark: 0.75, percentiles: [0, 0, 0, 0, 0, 0.2, 0.9] }, 'unclear', 0.3],
    // Of what is there a tenth is dark.
    [
      'leaves on what is clear',
      {
        dark: 0.82,
        percentiles: [0, 0, 0, 0, 0, 0.2, 0.41],
        saturation: 0.13,
        alpha: { full: 0.2, clear: 0.8, between: 0, bins: [] },
      },
      'colour',
      0.7,
    ],
    ['colourful', { saturation: 0.13 }, 'colour', 0.7],
    ['hardly colourful', { saturation: 0.12 }, 'unclear', 0.3],
  ])('%s', (_what, more, kind, confidence) => {
    expect(judgePixels(facts(more))).toMatchObject({ kind, confidence });
  });

  it('says what it was seen by, in numbers', () => {
    const said = (more: Partial<PixelFacts>) => judgePixels(facts(more)).evidence;
    expect(said({ min: [0.2, 0.4, 0.6], max: [0.2, 0.4, 0.6], mean: [0.2, 0.4, 0.6] })).toBe(
      'every pixel is 0.200 0.400 0.600',
    );
    expect(said(NORMAL)).toBe('99% of the pixels are unit vectors, mean (0.50, 0.50, 0.90)');
    expect(said({ ...NORMAL, unit: 0.6, length: 0.8 })).toBe(
      'vectors around (0.5, 0.5, 1), of mean length 0.80, mean (0.50, 0.50, 0.90)',
    );
    expect(said({ grey: 1, ends: [0.97, 1, 1] })).toBe('97% of the pixels have one of two values');
    expect(said({ grey: 0.985 })).toBe('red, green and blue are equal on 99% of the pixels');
    expect(said({ dark: 0.8, percentiles: [0, 0, 0, 0, 0, 0, 1] })).toBe('bright spots on 80% black');
    expect(said({ saturation: 0.4 })).toBe('colourful: mean saturation 0.40');
    expect(said({})).toBe('mean (0.40, 0.40, 0.40), saturation 0.10');
  });

  it('of one component is grey, mask or constant', () => {
    const one = { components: 1, min: [0.5], max: [0.5], mean: [0.5] };
    expect(judgePixels(facts(one))).toMatchObject({ kind: 'constant', evidence: 'every pixel is 0.500' });
    expect(isNormalLike(facts({ ...NORMAL, components: 2 }))).toBe(false);
  });
});

describe('vectors', () => {
  it.each<[string, Partial<PixelFacts>, boolean]>([
    ['all of length 1', NORMAL, true],
    ['grey for the most part', { ...NORMAL, grey: 0.61 }, false],
    ['leaning as a whole', { ...NORMAL, mean: [0.61, 0.5, 0.9], unit: 0.9 }, false],
    ['leaning, yet of length 1 nearly everywhere', { ...NORMAL, mean: [0.69, 0.5, 0.6], unit: 0.96 }, true],
    ['leaning too far', { ...NORMAL, mean: [0.71, 0.5, 0.6], unit: 0.96 }, false],
    ['steep, with little blue', { ...NORMAL, mean: [0.5, 0.5, 0.51], unit: 0.96 }, true],
    ['without blue', { ...NORMAL, mean: [0.5, 0.5, 0.5], unit: 0.96 }, false],
    [
      'of length 1 for the most part, with some blue',
      { ...NORMAL, mean: [0.5, 0.5, 0.63], unit: 0.86 },
      true,
    ],
    ['the same with less blue', { ...NORMAL, mean: [0.5, 0.5, 0.62], unit: 0.86, min: [0, 0, 0] }, false],
    ['short ones with much blue', { ...NORMAL, mean: [0.5, 0.5, 0.69], unit: 0, length: 0.51 }, true],
    ['too short', { ...NORMAL, mean: [0.5, 0.5, 0.69], unit: 0, length: 0.5 }, false],
    [
      'that look downwards somewhere',
      { ...NORMAL, mean: [0.5, 0.5, 0.69], unit: 0, length: 0.6, min: [0, 0, 0.3] },
      false,
    ],
  ])('%s', (_what, more, expected) => {
    expect(isNormalLike(facts(more))).toBe(expected);
  });

  it.each<[string, Partial<PixelFacts>, boolean]>([
    [
      'two components',
      { components: 2, mean: [0.5, 0.5], min: [0.2, 0.2], max: [0.8, 0.8], disc: 0.95 },
      true,
    ],
    ['one component', { components: 1, mean: [0.5], disc: 1 }, false],
    [
      'a blue that is the same everywhere',
      { mean: [0.5, 0.5, 0], min: [0.2, 0.2, 0], max: [0.8, 0.8, 0], disc: 1 },
      true,
    ],
    [
      'a blue that varies',
      { mean: [0.5, 0.5, 0.1], min: [0.2, 0.2, 0], max: [0.8, 0.8, 0.02], disc: 1 },
      false,
    ],
    [
      'nearly flat normals, whose blue is right',
      { mean: [0.5, 0.5, 1], min: [0.48, 0.48, 1], max: [0.52, 0.52, 1], disc: 1, unit: 1 },
      false,
    ],
    [
      'x and y off the middle',
      { components: 2, mean: [0.63, 0.5], min: [0.2, 0.2], max: [0.8, 0.8], disc: 1 },
      false,
    ],
    [
      'x and y beyond the circle',
      { components: 2, mean: [0.5, 0.5], min: [0, 0], max: [1, 1], disc: 0.94 },
      false,
    ],
    [
      'x and y the same everywhere',
      { components: 2, mean: [0.5, 0.5], min: [0.5, 0.5], max: [0.51, 0.51], disc: 1 },
      false,
    ],
  ])('without blue: %s', (_what, more, expected) => {
    expect(lacksBlue(facts(more))).toBe(expected);
  });
});

describe('what speaks against a channel', () => {
  const colour = facts({ saturation: 0.5 });
  const normal = facts(NORMAL);

  it('is said of normals and scalars, not of colours', () => {
    expect(contradiction('normal', normal, true)).toBeNull();
    expect(contradiction('normal', colour, true)).toBe(
      'a normal map holds vectors, but colourful: mean saturation 0.50',
    );
    expect(contradiction('roughness', normal, true)).toBe(
      'it looks like a normal map: 99% of the pixels are unit vectors, mean (0.50, 0.50, 0.90)',
    );
    expect(contradiction('roughness', colour, true)).toBe(
      'a scalar is grey, but it is colourful: mean saturation 0.50',
    );
    // A component of a packed image is grey by itself.
    expect(contradiction('roughness', colour, false)).toBeNull();
    expect(contradiction('baseColor', colour, true)).toBeNull();
    expect(contradiction('baseColor', normal, true)).not.toBeNull();
    expect(contradiction('baseColor', facts({ grey: 1, ends: [1, 1, 1] }), true)).toBeNull();
  });

  it('is not said of what is the same everywhere, nor of what is unclear', () => {
    expect(
      contradiction('normal', facts({ min: [1, 0, 0], max: [1, 0, 0], mean: [1, 0, 0] }), true),
    ).toBeNull();
    expect(contradiction('normal', facts(), true)).toBeNull();
    // Bright spots on black: 0.6 is too unsure.
    expect(
      contradiction('normal', facts({ dark: 0.9, percentiles: [0, 0, 0, 0, 0, 0, 1] }), true),
    ).toBeNull();
  });

  it('is none where a normal map only lacks its blue', () => {
    const flat = { mean: [0.5, 0.5, 0], min: [0.2, 0.2, 0], max: [0.8, 0.8, 0], disc: 1, saturation: 0.9 };
    expect(contradiction('normal', facts(flat), true)).toBeNull();
  });
});

describe('shares in words', () => {
  it.each([
    [1, '100%'],
    [0.9996, '100%'],
    [0.9994, '100%'],
    [0.994, '99%'],
    [0.1, '10%'],
    [0.0994, '9.9%'],
    [0.0006, '0.1%'],
    [0.0004, '0%'],
    [0, '0%'],
  ])('%s is %s', (share, text) => {
    expect(percent(share)).toBe(text);
  });
});

describe('the encoding of float colour by the band of albedo', () => {
  const judge = (percentiles: number[], over = 0) => judgeEncoding(facts({ percentiles, over }));
  const spread = (low: number, middle: number, high: number) => [
    low,
    low,
    middle,
    middle,
    middle,
    high,
    high,
  ];

  it.each<[string, number[], number, string, number]>([
    ['numbers above 1', spread(0.3, 0.6, 3), 0.02, 'linear', 0.7],
    ['a few above 1', spread(0.3, 0.6, 3), 0.01, 'encoded', 0.6],
    ['pale all over', spread(0.21, 0.46, 0.9), 0, 'encoded', 0.6],
    ['pale in the middle only', spread(0.2, 0.46, 0.9), 0, 'linear', 0.5],
    ['not so pale', spread(0.21, 0.45, 0.9), 0, 'linear', 0.5],
    ['darker than coal', spread(0.001, 0.01, 0.049), 0, 'darkened', 0.6],
    ['dark', spread(0.001, 0.09, 0.05), 0, 'linear', 0.7],
    ['of either', spread(0.05, 0.1, 0.5), 0, 'linear', 0.5],
  ])('%s', (_what, percentiles, over, state, confidence) => {
    expect(judge(percentiles, over)).toMatchObject({ state, confidence, linear: null, by: null });
  });

  const named = (percentiles: number[], state: 'linear' | 'encoded') =>
    judgeEncoding(facts({ percentiles }), { name: { state, linear: null, words: 'that' } as never });

  it('gives way to the name, unless the band speaks against it', () => {
    expect(named(spread(0.05, 0.1, 0.5), 'encoded')).toMatchObject({ state: 'encoded', confidence: 0.9 });
    expect(named(spread(0.05, 0.2, 0.5), 'linear')).toMatchObject({ state: 'linear', confidence: 0.9 });
    // Plausible as linear albedo and too dark for encoded: nobody can tell.
    expect(named(spread(0.001, 0.09, 0.2), 'encoded')).toMatchObject({ state: 'linear', confidence: 0.5 });
    expect(named(spread(0.21, 0.46, 0.9), 'linear')).toMatchObject({ state: 'encoded', confidence: 0.5 });
    expect(named(spread(0.1, 0.31, 0.5), 'linear')).toMatchObject({ state: 'linear', confidence: 0.5 });
    expect(named(spread(0.1, 0.2, 0.5), 'linear').evidence.at(-1)).toBe('the name says "that"');
  });
});

describe('the encoding of float colour by its codes', () => {
  const codes = (more: object) =>
    ({
      state: 'encoded',
      share: 0.8,
      rivalState: 0.1,
      space: 'lin_ap1_scene',
      rivalSpace: 0.2,
      ...more,
    }) as PixelFacts['codes'];

  it('is sure from 55 of 100 on, where no other way leads to as many', () => {
    expect(judgeEncoding(facts({ codes: codes({}) }))).toMatchObject({
      state: 'encoded',
      confidence: 0.9,
      linear: 'lin_ap1_scene',
      by: 'codes',
    });
    expect(judgeEncoding(facts({ codes: codes({ share: 0.55 }) }))).toMatchObject({
      state: 'encoded',
      confidence: 0.9,
    });
    expect(judgeEncoding(facts({ codes: codes({ share: 0.54 }) }))).toMatchObject({
      state: 'linear',
      confidence: 0.5,
    });
    expect(judgeEncoding(facts({ codes: codes({ rivalState: 0.4 }) }))).toMatchObject({ state: 'encoded' });
    expect(judgeEncoding(facts({ codes: codes({ rivalState: 0.41 }) }))).toMatchObject({
      state: 'linear',
      confidence: 0.5,
    });
  });

  it('tells the primaries only where others are clearly worse, and below header and name', () => {
    expect(judgeEncoding(facts({ codes: codes({ rivalSpace: 0.65 }) })).by).toBe('codes');
    expect(judgeEncoding(facts({ codes: codes({ rivalSpace: 0.66 }) }))).toMatchObject({
      linear: null,
      by: null,
    });
    const name = { state: null, linear: 'lin_rec709_scene', words: 'rec709' } as never;
    expect(judgeEncoding(facts({ codes: codes({}) }), { name })).toMatchObject({
      linear: 'lin_rec709_scene',
      by: 'name',
    });
    const both = judgeEncoding(facts({ codes: codes({}) }), { name, header: 'lin_p3d65_scene' as never });
    expect(both).toMatchObject({ linear: 'lin_p3d65_scene', by: 'header' });
  });

  it('beside a name that says otherwise is a doubt', () => {
    const name = (state: string) => ({ state, linear: null, words: 'raw' }) as never;
    expect(judgeEncoding(facts({ codes: codes({}) }), { name: name('linear') })).toMatchObject({
      state: 'encoded',
      confidence: 0.6,
    });
    expect(
      judgeEncoding(facts({ codes: codes({ state: 'encodedTwice' }) }), { name: name('encoded') }),
    ).toMatchObject({
      state: 'encodedTwice',
      confidence: 0.9,
    });
  });
});
