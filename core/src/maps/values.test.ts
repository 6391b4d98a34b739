import { describe, expect, it } from 'vitest';
import { type Channel, type ChannelName, createMapUse, type MapUse } from '../scene/material.ts';
import { activityOf, activitySteps } from './activity.ts';
import { constantValue } from './constantValue.ts';
import { lookAtEdges } from './edgeFacts.ts';
import { alphaVaries } from './fitReadings.ts';
import { nameSpace } from './nameSpace.ts';
import { lookAtPixels } from './pixelFacts.ts';

describe('activity, by hand', () => {
  /** The step of a cell whose numbers lie `range` 8-bit codes apart. */
  const stepOf = (range: number, components = 1, varied = 0) => {
    const data = new Float32Array(64 * 64 * 36 * components);
    for (let i = 0; i < data.length / components; i += 1)
      data[i * components + varied] = i % 2 ? range / 255 : 0;
    return [...new Set(activitySteps(activityOf({ width: 384, height: 384, components, data })))];
  };

  // 1 + floor(log2(codes) / 8 * 14), at most 15; one code is flat.
  it.each([
    [0, 0],
    [0.99, 0],
    [1.01, 1],
    [2, 2],
    [4, 4],
    [16, 8],
    [128, 13],
    [255, 14],
    [512, 15],
    [100_000, 15],
  ])('a range of %s codes is step %s', (codes, step) => {
    expect(stepOf(codes)).toEqual([step]);
  });

  it('looks at red, green and blue, and not at alpha', () => {
    expect(stepOf(16, 3, 2)).toEqual([8]);
    expect(stepOf(16, 4, 3)).toEqual([0]);
    expect(stepOf(16, 2, 1)).toEqual([0]);
  });
});

describe('ranges of large images', () => {
  it('walk over all columns, though the first step would meet every third only', () => {
    // 600 by 600 is three times what is looked at; a step of 3 would see the black columns alone.
    const data = Uint8Array.from({ length: 600 * 600 }, (_, i) => (i % 3 === 0 ? 0 : 255));
    const { mean, min, max } = lookAtPixels({ width: 600, height: 600, components: 1, data });
    expect([min[0], max[0]]).toEqual([0, 1]);
    expect(mean[0]).toBeCloseTo(2 / 3, 2);
  });

  it('keep components apart, and look at each pixel of one that seems to be constant', () => {
    const data = new Uint8Array(600 * 600 * 3);
    for (let i = 0; i < 360_000; i += 1) data.set([i % 2 ? 51 : 102, 204, 255], i * 3);
    // One pixel of green is off, between those that are looked at first.
    data[(600 * 301 + 2) * 3 + 1] = 153;
    const { mean, min, max } = lookAtPixels({ width: 600, height: 600, components: 3, data });
    expect(min).toEqual([0.2, 0.6, 1]);
    expect(max).toEqual([0.4, 0.8, 1]);
    expect(mean[0]).toBeCloseTo(0.3, 2);
    expect(mean[2]).toBe(1);
  });
});

describe('a map of one value, in words', () => {
  const look = (
    channel: ChannelName,
    pixel: number[],
    use: Partial<MapUse> = {},
    value: Channel['value'] = 1,
  ) => {
    const data = Uint8Array.from({ length: 64 * pixel.length }, (_, i) => pixel[i % pixel.length]);
    const map = createMapUse('x.png', channel, use);
    return constantValue(
      channel,
      { value, map, source: { from: 'file', detail: '' } },
      lookAtPixels({ width: 8, height: 8, components: pixel.length, data }),
    );
  };

  it('says the value and what the pixels are', () => {
    expect(look('roughness', [102], {}, 0.5)).toEqual({
      value: 0.2,
      words: '0.200',
      evidence: 'every pixel is 0.400',
    });
    expect(look('occlusion', [255])).toEqual({ value: null, words: '1', evidence: 'every pixel is 1.000' });
    expect(look('normal', [128, 128, 255])).toEqual({
      value: null,
      words: 'flat',
      evidence: 'every pixel is 0.502 0.502 1.000',
    });
    expect(look('baseColor', [255, 0, 255], {}, [0.5, 0.5, 1])).toMatchObject({ words: '0.500 0.000 1.000' });
  });

  // 0.5 is 127.5 codes; a flat map may be two codes off, either way, in x and in y.
  it.each([
    [[126, 128, 255], true],
    [[129, 128, 255], true],
    [[128, 126, 255], true],
    [[128, 129, 255], true],
    [[125, 128, 255], false],
    [[130, 128, 255], false],
    [[128, 125, 255], false],
    [[128, 130, 255], false],
  ])('takes %j as flat: %s', (pixel, flat) => {
    expect(look('normal', pixel)?.words).toBe(flat ? 'flat' : undefined);
  });

  it('leaves occlusion alone that shades by more than two codes', () => {
    expect(look('occlusion', [253])?.words).toBe('1');
    expect(look('occlusion', [252])).toBeNull();
  });

  it('goes through gain, offset and inversion in that order', () => {
    // (1 - 0.2) * 0.5 + 0.1
    expect(look('roughness', [51], { invert: true, gain: 0.5, offset: 0.1 })?.value).toBeCloseTo(0.5, 6);
    // Rec.709 weights of 0.2, 0.4 and 0.6: 0.04252 + 0.28608 + 0.04332.
    expect(look('roughness', [51, 102, 153], { component: 'luminance' })?.value).toBeCloseTo(0.37192, 5);
  });
});

describe('edges of the alpha, along one line', () => {
  const line = (...alphas: number[]) =>
    lookAtEdges({
      width: alphas.length,
      height: 1,
      components: 2,
      data: Float32Array.from(alphas.flatMap((alpha, i) => [i / 10, alpha])),
    });

  it('compare a clear pixel with the visible one beside it, from both ends', () => {
    // Value 0.2 beside 0.1 from the left; nothing visible lies to the right.
    expect(line(1, 1, 0)?.foreign).toBeCloseTo(0.1, 4);
    // 0.3 is reached within three pixels: 0.1, 0.2 and 0.3 away, and no further.
    expect(line(1, 0, 0, 0, 0, 0)?.foreign).toBeCloseTo(0.2, 4);
  });

  it('count a pixel as visible from a quarter of alpha on', () => {
    expect(line(0.25, 0)?.foreign).toBeCloseTo(0.1, 4);
    expect(line(0.24, 0)).toBeNull();
    // The visible one is nearer than the whole one before it.
    expect(line(1, 0.3, 0)?.foreign).toBeCloseTo(0.1, 4);
  });
});

describe('alpha', () => {
  it.each([
    [{ full: 1, clear: 0 }, false],
    [{ full: 0, clear: 1 }, false],
    [{ full: 0.5, clear: 0.5 }, true],
    [{ full: 0, clear: 0 }, true],
  ])('%j varies: %s', (alpha, varies) => {
    expect(alphaVaries({ alpha: { between: 0, bins: [], ...alpha } })).toBe(varies);
  });

  it('that is not there does not vary', () => {
    expect(alphaVaries({ alpha: null })).toBe(false);
  });
});

describe('colour spaces in names', () => {
  // Names of the Color Interop Forum and of the ACES configurations.
  it.each<[string, ReturnType<typeof nameSpace>]>([
    ['hull_basecolor.exr', null],
    ['hull_linear.exr', { state: 'linear', linear: null, words: 'linear' }],
    ['hull_sRGB.png', { state: 'encoded', linear: 'lin_rec709_scene', words: 'srgb' }],
    ['hull_ACEScg.exr', { state: 'linear', linear: 'lin_ap1_scene', words: 'acescg' }],
    ['hull_aces2065-1.exr', { state: 'linear', linear: 'lin_ap0_scene', words: 'aces20651' }],
    ['hull_linear_rec2020.exr', { state: 'linear', linear: 'lin_rec2020_scene', words: 'linear rec2020' }],
    ['hull_gamma_display-p3.png', { state: 'encoded', linear: 'lin_p3d65_scene', words: 'gamma displayp3' }],
    ['hull_p3.png', { state: null, linear: 'lin_p3d65_scene', words: 'p3' }],
    ['hull_gamma.png', { state: 'encoded', linear: null, words: 'gamma' }],
    ['hull_lin_ap1_scene.exr', { state: 'linear', linear: 'lin_ap1_scene', words: 'lin_ap1_scene' }],
    [
      'hull_srgb_rec709_scene.png',
      { state: 'encoded', linear: 'lin_rec709_scene', words: 'srgb_rec709_scene' },
    ],
    // Encoded is said outright, though the name of a linear space stands beside it.
    ['hull_encoded_acescg.exr', { state: 'encoded', linear: 'lin_ap1_scene', words: 'acescg encoded' }],
  ])('%s', (name, said) => {
    expect(nameSpace(name)).toEqual(said);
  });
});
