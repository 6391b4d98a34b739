import { describe, expect, it } from 'vitest';
import { createMaterial, type MapUse } from '../../scene/material.ts';
import { image, made, make, materialOf, type Slots, slot } from '../../test/recipes.ts';
import { recipeOf } from './recipes.ts';

/** IEC 61966-2-1, written out again on purpose. */
const decode = (code: number) =>
  code / 255 <= 0.04045 ? code / 255 / 12.92 : ((code / 255 + 0.055) / 1.055) ** 2.4;
const encode = (light: number) =>
  Math.round(255 * (light <= 0.0031308 ? 12.92 * light : 1.055 * light ** (1 / 2.4) - 0.055));
const near = (found: ArrayLike<number>, expected: number[], off = 1) =>
  expected.forEach((value, i) => expect(Math.abs(found[i] - value), `${i}`).toBeLessThanOrEqual(off));
const white = [1, 1, 1] as [number, number, number];
const floats = (width: number, components: number, data: number[]) => ({
  width,
  height: data.length / width / components,
  components,
  data: Float32Array.from(data),
});

describe('after metal/rough became spec/gloss', () => {
  it('values alone give values, without an image', async () => {
    const result = await make('spec-gloss', 'metalRough', {
      baseColor: { value: [0.8, 0.4, 0.2] },
      metalness: { value: 0.5 },
      roughness: { value: 0.3 },
    });
    expect(result.images).toEqual([]);
    expect(result.slots.map(({ channel, map }) => [channel, map])).toEqual([
      ['metalness', null],
      ['roughness', null],
      ['glossiness', null],
      ['baseColor', null],
      ['specularColor', null],
    ]);
    near(slot(result, 'baseColor')?.value as number[], [0.4, 0.2, 0.1], 1e-9);
    near(slot(result, 'specularColor')?.value as number[], [0.42, 0.22, 0.12], 1e-9);
    expect(slot(result, 'glossiness')?.value).toBeCloseTo(0.7, 9);
    expect([slot(result, 'metalness')?.value, slot(result, 'roughness')?.value]).toEqual([null, null]);
  });

  it('a base image of no metal stays as it is, with its tint', async () => {
    const base = image(1, 1, 3, [200, 100, 50]);
    const result = await make('spec-gloss', 'metalRough', {
      baseColor: { value: [0.5, 1, 1], pixels: base },
    });
    expect(result.images).toEqual([]);
    expect(slot(result, 'baseColor')).toMatchObject({ value: [0.5, 1, 1], map: { image: 'baseColor.png' } });
    expect(slot(result, 'specularColor')).toEqual({
      channel: 'specularColor',
      value: [0.04, 0.04, 0.04],
      map: null,
    });
    // Without a roughness, metal/rough is wholly rough.
    expect(slot(result, 'glossiness')).toEqual({ channel: 'glossiness', value: 0, map: null });
  });

  it('a metalness value over a base image goes into its pixels', async () => {
    const base = image(2, 1, 3, [200, 100, 50, 10, 20, 30]);
    const result = await make('spec-gloss', 'metalRough', {
      baseColor: { value: white, pixels: base },
      metalness: { value: 0.25 },
    });
    near(
      made(result, 'baseColor').data,
      [...base.data].map((code) => encode(decode(code) * 0.75)),
    );
    near(
      made(result, 'specularColor').data,
      [...base.data].map((code) => encode(0.04 * 0.75 + decode(code) * 0.25)),
    );
    expect(slot(result, 'baseColor')).toEqual({ channel: 'baseColor', value: white, map: 'made' });
    expect(slot(result, 'specularColor')).toEqual({ channel: 'specularColor', value: white, map: 'made' });
    expect(result.images.map(({ channel, space, like }) => [channel, space, like.image])).toEqual([
      ['baseColor', 'srgb_rec709_scene', 'baseColor.png'],
      ['specularColor', 'srgb_rec709_scene', 'baseColor.png'],
    ]);
  });

  it('a gloss that is there is kept, and only what is missing is filled in', async () => {
    const gloss = await make('spec-gloss', 'metalRough', { glossiness: { value: 0.6 } });
    expect(slot(gloss, 'glossiness')).toBeUndefined();
    const both = await make('spec-gloss', 'metalRough', {
      glossiness: { value: 0.6 },
      roughness: { value: 0.1 },
    });
    expect(slot(both, 'glossiness')?.value).toBeCloseTo(0.9, 9);
  });

  it('a weakened reflection is in the specular colour, and no longer beside it', async () => {
    const result = await make('spec-gloss', 'metalRough', {
      baseColor: { value: [0.5, 0.5, 0.5] },
      specular: { value: 0.5 },
    });
    near(slot(result, 'specularColor')?.value as number[], [0.02, 0.02, 0.02], 1e-9);
    expect(slot(result, 'specular')).toEqual({ channel: 'specular', value: null, map: null });
    expect(
      slot(await make('spec-gloss', 'metalRough', { baseColor: { value: white } }), 'specular'),
    ).toBeUndefined();
  });

  it('is refused for what is no metal/rough, and reads what has images', () => {
    const { refuses, reads } = recipeOf('spec-gloss');
    expect(
      refuses(
        materialOf('specGloss', { specularColor: { value: white }, glossiness: { value: 1 } }).material,
      ),
    ).toBe('the material is not metal/rough');
    const { material } = materialOf('metalRough', {
      baseColor: { value: white, pixels: image(1, 1, 3, [1, 2, 3]) },
      metalness: { value: 1 },
    });
    expect(reads(material, {})).toEqual(['baseColor']);
  });
});

describe('after spec/gloss became metal/rough', () => {
  it('values give values with the residual, gloss is turned round, and the old channels are gone', async () => {
    const result = await make('metal-rough', 'specGloss', {
      baseColor: { value: [0, 0, 0] },
      specularColor: { value: [0.963, 0.787, 0.408] },
      glossiness: { value: 0.75 },
    });
    near(slot(result, 'baseColor')?.value as number[], [0.963, 0.787, 0.408], 1e-3);
    expect(slot(result, 'metalness')?.value).toBeCloseTo(1, 3);
    expect(slot(result, 'roughness')?.value).toBeCloseTo(0.25, 9);
    expect([slot(result, 'specularColor')?.value, slot(result, 'glossiness')?.value]).toEqual([null, null]);
    expect(result.figures).toEqual([
      { title: 'residual', value: expect.closeTo(0, 2), unit: '%', of: 'residual' },
    ]);
  });

  it('one row below the other keeps its place in images and in the picture of what is lost', async () => {
    const diffuse = image(2, 2, 3, [200, 20, 20, 128, 128, 128, 0, 0, 0, 200, 20, 20]);
    const dielectric = encode(0.04);
    const specular = image(2, 2, 3, [
      20,
      20,
      200,
      dielectric,
      dielectric,
      dielectric,
      240,
      200,
      120,
      20,
      20,
      200,
    ]);
    const result = await make('metal-rough', 'specGloss', {
      baseColor: { value: white, pixels: diffuse },
      specularColor: { value: white, pixels: specular },
    });
    const heat = result.heat?.pixels.data ?? [];
    expect([heat[0] > 25, heat[1] < 3, heat[2] < 3, heat[3]]).toEqual([true, true, true, heat[0]]);
    const metal = made(result, 'metalness').data;
    expect([metal[1] <= 1, metal[2] >= 250, metal[3]]).toEqual([true, true, metal[0]]);
    near([...made(result, 'baseColor').data].slice(3, 9), [128, 128, 128, 240, 200, 120], 2);
    const [mean, most, seen] = result.figures;
    expect(mean).toMatchObject({ title: 'mean residual', unit: '%', of: 'residual' });
    expect(seen).toEqual({ title: 'of the pixels are beyond 2%', value: 50, unit: '%' });
    expect(most).toMatchObject({ title: 'largest residual', unit: '%', of: 'residual', over: 'most' });
    expect(most.value).toBeCloseTo((heat[0] / 255) * 100, 0);
    expect(mean.value).toBeCloseTo(most.value / 2, 0);
    expect(result.images.map(({ channel, space }) => [channel, space])).toEqual([
      ['baseColor', 'srgb_rec709_scene'],
      ['metalness', 'data'],
    ]);
  });

  it('a gloss map is read inverted, and a roughness that is there stays', async () => {
    const pixels = image(1, 1, 1, [40]);
    const mapped = await make('metal-rough', 'specGloss', {
      specularColor: { value: [0.04, 0.04, 0.04] },
      glossiness: { value: 1, pixels },
    });
    expect(slot(mapped, 'roughness')).toMatchObject({
      value: 1,
      map: { image: 'glossiness.png', invert: true, gain: 1, offset: 0 },
    });
    const kept = await make('metal-rough', 'specGloss', {
      specularColor: { value: [0.04, 0.04, 0.04] },
      glossiness: { value: 1 },
      roughness: { value: 0.3 },
    });
    expect(slot(kept, 'roughness')).toBeUndefined();
    expect(
      slot(
        await make('metal-rough', 'specGloss', { specularColor: { value: [0.04, 0.04, 0.04] } }),
        'roughness',
      )?.value,
    ).toBe(1);
  });
});

describe('normals from grey', () => {
  /** One bright column, as a height that does or does not go on beyond its edges. */
  const column = (index: number, wrap: MapUse['wrap'], params: Record<string, number | string> = {}) => {
    const pixels = image(
      8,
      4,
      1,
      Array.from({ length: 32 }, (_, i) => (i % 8 === index ? 255 : 0)),
    );
    return make(
      'normal',
      'metalRough',
      { height: { pixels, use: { wrap } } },
      { from: 'height', strength: 10, ...params },
    );
  };
  const reds = async (result: ReturnType<typeof column>) =>
    [...made(await result, 'normal').data].filter((_, i) => i % 3 === 0).slice(0, 8);
  const leans = (codes: number[]) => codes.map((code) => Math.sign(Math.round((code - 127.5) / 3)));

  it('lean away from a ridge, over the edge where the image repeats', async () => {
    // Left of the ridge the surface rises to the right, so it leans to the left.
    expect(leans(await reds(column(3, ['repeat', 'repeat'])))).toEqual([0, 0, -1, 0, 1, 0, 0, 0]);
    expect(leans(await reds(column(0, ['repeat', 'repeat'])))).toEqual([0, 1, 0, 0, 0, 0, 0, -1]);
    expect(leans(await reds(column(0, ['clamp', 'clamp'])))).toEqual([1, 1, 0, 0, 0, 0, 0, 0]);
  });

  it('smoothed spread the ridge to both sides, around the edge where the image repeats', async () => {
    const wide = leans(await reds(column(3, ['repeat', 'repeat'], { smooth: 1 })));
    expect(wide).toEqual([-1, -1, -1, 0, 1, 1, 1, 0]);
    expect(leans(await reds(column(0, ['repeat', 'repeat'], { smooth: 1 })))).toEqual([
      0, 1, 1, 1, 0, -1, -1, -1,
    ]);
    expect(await reds(column(3, ['repeat', 'repeat'], { smooth: 0 }))).toEqual(
      await reds(column(3, ['repeat', 'repeat'])),
    );
  });

  it('say what is missing in the words of the settings', () => {
    const { refuses } = recipeOf('normal');
    const { material } = materialOf('metalRough', {
      baseColor: { value: white, pixels: image(1, 1, 3, [1, 2, 3]) },
      occlusion: { pixels: image(1, 1, 1, [1]) },
    });
    expect(refuses(material, { from: 'roughness' })).toBe(
      'it has no roughness; choose base colour or occlusion to make it from',
    );
    expect(refuses(material)).toBe('it has no height; choose base colour or occlusion to make it from');
    expect(refuses(material, { from: 'baseColor' })).toBeNull();
    expect(refuses(createMaterial('Bare', 'metalRough'), { from: 'height' })).toBe(
      'no map has grey levels to make it from',
    );
  });
});

describe('after the tint was baked', () => {
  it('the alpha goes along as opacity, other colours too, and what was cut at white is told', async () => {
    const base = image(2, 1, 4, [255, 255, 255, 9, 100, 100, 100, 200]);
    const glow = image(1, 1, 3, [128, 128, 128]);
    const slots: Slots = {
      baseColor: { value: [2, 1, 1], pixels: base, use: { image: 'net.png' } },
      opacity: { pixels: base, use: { image: 'net.png', component: 'a' } },
      emission: { value: [0.5, 0.5, 0.5], pixels: glow },
      roughness: { value: 0.3, pixels: glow },
    };
    const result = await make('bake-tint', 'metalRough', slots);
    // One of three pixels in all is above white.
    expect(result.figures).toEqual([
      { title: 'of the pixels were cut at white', value: expect.closeTo(100 / 3, 9), unit: '%' },
    ]);
    near(made(result, 'baseColor').data, [255, 255, 255, 9, encode(2 * decode(100)), 100, 100, 200]);
    near(made(result, 'emission').data, Array(3).fill(encode(decode(128) / 2)));
    expect(result.slots.map(({ channel, value }) => [channel, value])).toEqual(
      expect.arrayContaining([
        ['baseColor', white],
        ['opacity', 1],
        ['emission', white],
      ]),
    );
    expect(slot(result, 'opacity')?.map).toMatchObject({ made: 'baseColor', use: { component: 'a' } });
    expect(recipeOf('bake-tint').reads(materialOf('metalRough', slots).material, {}).sort()).toEqual([
      'baseColor',
      'emission',
    ]);
  });

  it('light is as much brighter than white as it was, and is not tinted any more', async () => {
    const glow = { pixels: image(1, 1, 3, [255, 255, 255]) };
    const result = await make('bake-tint', 'metalRough', { emission: { value: [4, 2, 1], ...glow } });
    near(made(result, 'emission').data, [255, encode(0.5), encode(0.25)]);
    expect(slot(result, 'emission')?.value).toEqual([4, 4, 4]);
    const { material } = materialOf('metalRough', { emission: { value: [4, 4, 4], ...glow } });
    expect(recipeOf('bake-tint').refuses(material)).not.toBeNull();
  });

  it('floats hold what is above white, so nothing was cut', async () => {
    const pixels = floats(1, 3, [0.75, 0.5, 2]);
    const result = await make('bake-tint', 'metalRough', {
      baseColor: { value: [2, 1, 1], pixels, use: { space: 'lin_rec709_scene' } },
    });
    near(made(result, 'baseColor').data, [1.5, 0.5, 2], 1e-6);
    expect(result.figures[0].value).toBe(0);
  });

  it('primaries of the image stay what they are', async () => {
    const pixels = floats(1, 3, [0.2, 0.4, 0.8]);
    const result = await make('bake-tint', 'metalRough', {
      baseColor: { value: [0.5, 0.5, 0.5], pixels, use: { space: 'lin_ap1_scene' } },
    });
    // A grey factor is the same in all primaries.
    near(made(result, 'baseColor').data, [0.1, 0.2, 0.4], 1e-5);
  });

  it('is refused where every factor is white within a thousandth', () => {
    const of = (value: number) =>
      materialOf('metalRough', { baseColor: { value: [value, 1, 1], pixels: image(1, 1, 3, [1, 2, 3]) } })
        .material;
    expect(recipeOf('bake-tint').refuses(of(0.9995))).toBe('no colour map has a factor that is not white');
    expect(recipeOf('bake-tint').refuses(of(0.99))).toBeNull();
  });
});

describe('after edges were mended', () => {
  const cut = (pixels: ReturnType<typeof image>, value = white): Slots => ({
    baseColor: { value, pixels, use: { image: 'net.png' } },
    opacity: { value: 0.5, pixels, use: { image: 'net.png', component: 'a' } },
  });

  it('the factor and the opacity stay, and the share of changed pixels is told', async () => {
    const pixels = image(2, 2, 4, [100, 50, 25, 128, 100, 50, 25, 255, 100, 50, 25, 0, 200, 200, 200, 64]);
    const result = await make('undo-premultiplied', 'metalRough', cut(pixels, [0.5, 1, 1]));
    expect(slot(result, 'baseColor')).toEqual({ channel: 'baseColor', value: [0.5, 1, 1], map: 'made' });
    expect(slot(result, 'opacity')).toMatchObject({ value: 0.5, map: { made: 'baseColor' } });
    expect(result.figures).toEqual([{ title: 'of the pixels changed', value: 50, unit: '%' }]);
    // 100 / (128 / 255), whole and clear pixels as they were, and never above white.
    near(
      made(result, 'baseColor').data,
      [199, 100, 50, 128, 100, 50, 25, 255, 100, 50, 25, 0, 255, 255, 255, 64],
    );
    const light = await make('undo-premultiplied', 'metalRough', cut(pixels), { in: 'light' });
    near(made(light, 'baseColor').data, [
      encode(decode(100) / (128 / 255)),
      encode(decode(50) / (128 / 255)),
    ]);
  });

  it('padding takes the nearest whole pixel to the left, right, above and below, and tells how many', async () => {
    const clear = [0, 0, 0, 0];
    const [red, blue] = [
      [200, 0, 0, 255],
      [0, 0, 200, 255],
    ];
    const row = (...pixels: number[][]) => image(pixels.length, 1, 4, pixels.flat());
    const padded = async (pixels: ReturnType<typeof image>, params: Record<string, number>) => {
      const result = await make('pad-edges', 'metalRough', cut(pixels), params);
      const { data } = made(result, 'baseColor');
      return {
        codes: Array.from({ length: data.length / 4 }, (_, i) => [...data.slice(i * 4, i * 4 + 4)]),
        share: result.figures[0].value,
      };
    };
    const [paleRed, paleBlue] = [
      [200, 0, 0, 0],
      [0, 0, 200, 0],
    ];
    expect(await padded(row(red, clear, clear, clear, blue), { width: 1 })).toEqual({
      codes: [red, paleRed, clear, paleBlue, blue],
      share: 40,
    });
    const column = { ...row(red, clear, clear, clear, blue), width: 1, height: 5 };
    expect(await padded(column, { width: 1 })).toEqual({
      codes: [red, paleRed, clear, paleBlue, blue],
      share: 40,
    });
    // Two pixels away and no farther.
    expect((await padded(row(clear, clear, clear, blue), { width: 2 })).codes).toEqual([
      clear,
      paleBlue,
      paleBlue,
      blue,
    ]);
    // What is whole is a matter of alpha.
    const faint = [9, 9, 9, 51];
    expect((await padded(row(faint, clear), { width: 1, solid: 0.95 })).codes).toEqual([faint, clear]);
    expect((await padded(row(faint, clear), { width: 1, solid: 0.2 })).codes).toEqual([faint, [9, 9, 9, 0]]);
    // Thin print that is nowhere whole hands on its colour, and takes none; far from what is whole alone.
    const thin = [9, 9, 9, 128];
    expect((await padded(row(clear, thin, clear, faint), { width: 1 })).codes).toEqual([
      [9, 9, 9, 0],
      thin,
      [9, 9, 9, 0],
      faint,
    ]);
    expect((await padded(row(clear, thin, red), { width: 1 })).codes).toEqual([clear, [200, 0, 0, 128], red]);
    // A pixel at the end of a row is no neighbour of the next row's first.
    const two = image(2, 2, 4, [...clear, ...red, ...clear, ...clear]);
    expect((await padded(two, { width: 1 })).codes).toEqual([paleRed, red, clear, paleRed]);
  });

  it('is refused where the opacity is no alpha of the base colour', () => {
    const pixels = image(1, 1, 4, [1, 2, 3, 4]);
    const { refuses } = recipeOf('pad-edges');
    const words = (slots: Slots) => refuses(materialOf('metalRough', slots).material);
    expect(words({ baseColor: { value: white } })).toBe('the base colour has no map');
    expect(words({ baseColor: { value: white, pixels } })).toBe(
      'the opacity is not the alpha of the base colour',
    );
    expect(words({ ...cut(pixels), opacity: { pixels, use: { image: 'other.png', component: 'a' } } })).toBe(
      'the opacity is not the alpha of the base colour',
    );
    expect(words({ ...cut(pixels), opacity: { pixels, use: { image: 'net.png', component: 'g' } } })).toBe(
      'the opacity is not the alpha of the base colour',
    );
  });
});

describe('after occlusion was removed', () => {
  it('tells how much brighter it is and what was cut, and divides by a tenth at most', async () => {
    const base = image(4, 1, 3, [100, 100, 100, 100, 100, 100, 200, 10, 10, 20, 20, 20]);
    const occlusion = image(4, 1, 1, [255, 204, 51, 0]);
    const result = await make('remove-occlusion', 'metalRough', {
      baseColor: { value: [0.5, 1, 1], pixels: base },
      occlusion: { pixels: occlusion },
    });
    // By 1, 0.8, 0.2 and, for black, 0.1.
    near(made(result, 'baseColor').data, [100, 100, 100, 125, 125, 125, 255, 50, 50, 200, 200, 200]);
    const [brighter, cut] = result.figures;
    expect(brighter).toEqual({
      title: 'brighter on average',
      value: expect.closeTo(((0 + 0.25 + 4 + 9) / 4) * 100, 6),
      unit: '%',
    });
    expect(cut).toEqual({ title: 'of the pixels were cut at white', value: 25, unit: '%' });
    expect(slot(result, 'baseColor')).toEqual({ channel: 'baseColor', value: [0.5, 1, 1], map: 'made' });
    const light = await make(
      'remove-occlusion',
      'metalRough',
      { baseColor: { value: white, pixels: base }, occlusion: { pixels: occlusion } },
      { in: 'light' },
    );
    near([...made(light, 'baseColor').data].slice(3, 4), [encode(decode(100) / 0.8)]);
  });

  it('is refused without one of both maps', () => {
    const pixels = image(1, 1, 3, [1, 2, 3]);
    const { refuses, reads } = recipeOf('remove-occlusion');
    expect(refuses(materialOf('metalRough', { occlusion: { pixels } }).material)).toBe(
      'the base colour has no map',
    );
    expect(refuses(materialOf('metalRough', { baseColor: { value: white, pixels } }).material)).toBe(
      'there is no occlusion map to divide by',
    );
    expect(reads(createMaterial('Rail', 'metalRough'), {})).toEqual(['baseColor', 'occlusion']);
  });
});

describe('to legacy', () => {
  it('takes the exponent alone from spec/gloss, and is refused for what is legacy', async () => {
    const result = await make('legacy', 'specGloss', {
      specularColor: { value: [0.04, 0.04, 0.04] },
      glossiness: { value: 0.5 },
    });
    expect(result).toMatchObject({ workflow: 'legacy', exponent: 30, images: [], slots: [] });
    expect(result.figures).toEqual([{ title: 'specular exponent', value: 30, unit: '' }]);
    const { refuses, reads } = recipeOf('legacy');
    expect(
      refuses(
        materialOf('legacy', { baseColor: { value: white }, specularColor: { value: white } }).material,
      ),
    ).toBe('the material is legacy already');
    const { material } = materialOf('specGloss', {
      specularColor: { value: white, pixels: image(1, 1, 3, [1, 2, 3]) },
    });
    expect(reads(material, {})).toEqual([]);
  });
});
