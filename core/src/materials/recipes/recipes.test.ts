import { describe, expect, it } from 'vitest';
import { encodePng } from '../../images/encode.ts';
import type { PixelBuffer } from '../../images/pixelBuffer.ts';
import { createMapUse, createMaterial, type MapUse } from '../../scene/material.ts';
import { image, made, make, materialOf, type Slots, slot } from '../../test/recipes.ts';
import { decodeOutside, oiiotool, put, scratch } from '../../test/tools.ts';
import { completeParams } from './recipe.ts';
import { RECIPES, recipeOf } from './recipes.ts';

/** IEC 61966-2-1, written out again on purpose. */
const decode = (code: number) =>
  code / 255 <= 0.04045 ? code / 255 / 12.92 : ((code / 255 + 0.055) / 1.055) ** 2.4;
const encode = (light: number) =>
  Math.round(255 * (light <= 0.0031308 ? 12.92 * light : 1.055 * light ** (1 / 2.4) - 0.055));

/** Every eighth code against every eighth code. */
const GRID = 32;
const codes = Array.from({ length: GRID * GRID }, (_, i) => [(i % GRID) * 8, Math.floor(i / GRID) * 8]);

describe('metal/rough to spec/gloss in pixels', () => {
  it('follows diffuse = base (1 - m), specular = 0.04 (1 - m) + base m over a grid of codes', async () => {
    const base = image(
      GRID,
      GRID,
      3,
      codes.flatMap(([a]) => [a, 255 - a, a >> 1]),
    );
    const metal = image(
      GRID,
      GRID,
      1,
      codes.map(([, b]) => b),
    );
    const result = await make('spec-gloss', 'metalRough', {
      baseColor: { value: [1, 1, 1], pixels: base },
      metalness: { pixels: metal },
    });
    const [diffuse, specular] = [made(result, 'baseColor'), made(result, 'specularColor')];
    codes.forEach(([a, b], i) => {
      const m = b / 255;
      [a, 255 - a, a >> 1].forEach((code, k) => {
        expect(Math.abs(diffuse.data[i * 3 + k] - encode(decode(code) * (1 - m)))).toBeLessThanOrEqual(1);
        expect(
          Math.abs(specular.data[i * 3 + k] - encode(0.04 * (1 - m) + decode(code) * m)),
        ).toBeLessThanOrEqual(1);
      });
    });
    expect(result.workflow).toBe('specGloss');
  });

  it('reads roughness inverted instead of computing it anew', async () => {
    const rough = image(2, 1, 3, [9, 100, 7, 1, 200, 3]);
    const result = await make('spec-gloss', 'metalRough', {
      roughness: { pixels: rough, use: { component: 'g' } },
    });
    expect(slot(result, 'glossiness')).toMatchObject({
      value: 1,
      map: { component: 'g', invert: true, gain: 1, offset: 0 },
    });
    const halved = await make('spec-gloss', 'metalRough', {
      roughness: { value: 0.5, pixels: rough, use: { gain: 0.8, offset: 0.1 } },
    });
    // 1 - 0.5 (0.8 x + 0.1) = -0.4 x + 0.95
    const { map } = slot(halved, 'glossiness') as { map: MapUse };
    expect([map.gain, map.offset]).toEqual([expect.closeTo(-0.4, 9), expect.closeTo(0.95, 9)]);
  });

  it('keeps the depth of the deepest image and the size of the largest', async () => {
    const base = image(
      4,
      2,
      3,
      Uint16Array.from({ length: 24 }, (_, i) => i * 2700),
    );
    const metal = image(2, 1, 1, [255, 0]);
    const result = await make('spec-gloss', 'metalRough', {
      baseColor: { value: [1, 1, 1], pixels: base },
      metalness: { pixels: metal },
    });
    expect(made(result, 'specularColor')).toMatchObject({
      width: 4,
      height: 2,
      data: expect.any(Uint16Array),
    });
  });
});

describe('spec/gloss to metal/rough in pixels', () => {
  it('gives back what metal/rough gave, and a residual of nothing, where the surface is wholly metal or wholly not', async () => {
    const base = image(
      GRID,
      1,
      3,
      codes.slice(0, GRID).flatMap(([a]) => [a, 128, 255 - a]),
    );
    for (const metalness of [0, 255]) {
      const metal = image(GRID, 1, 1, new Uint8Array(GRID).fill(metalness));
      const there = await make('spec-gloss', 'metalRough', {
        baseColor: { value: [1, 1, 1], pixels: base },
        metalness: { pixels: metal },
      });
      const back = await make('metal-rough', 'specGloss', {
        baseColor: { value: [1, 1, 1], pixels: made(there, 'baseColor') },
        specularColor: { value: [1, 1, 1], pixels: made(there, 'specularColor') },
      });
      const found = made(back, 'baseColor').data;
      for (let i = 0; i < found.length; i += 1)
        expect(Math.abs(found[i] - base.data[i]), `${metalness} ${i}`).toBeLessThanOrEqual(2);
      for (const value of made(back, 'metalness').data)
        expect(Math.abs(value - metalness)).toBeLessThanOrEqual(3);
      expect(back.figures[1].value).toBeLessThan(2);
    }
  });

  it('tells where the look is lost: a blue reflection over red', async () => {
    const diffuse = image(2, 1, 3, [200, 20, 20, 128, 128, 128]);
    const specular = image(2, 1, 3, [20, 20, 200, encode(0.04), encode(0.04), encode(0.04)]);
    const { heat, figures } = await make('metal-rough', 'specGloss', {
      baseColor: { value: [1, 1, 1], pixels: diffuse },
      specularColor: { value: [1, 1, 1], pixels: specular },
    });
    expect(heat?.pixels.data[0]).toBeGreaterThan(25);
    expect(heat?.pixels.data[1]).toBeLessThan(3);
    expect(figures[2]).toMatchObject({ value: 50, unit: '%' });
  });

  it('takes the roughness of a legacy material from its exponent', async () => {
    const { material, inputs } = materialOf('legacy', {
      baseColor: { value: [0.5, 0.2, 0.1] },
      specularColor: { value: [0.5, 0.5, 0.5] },
    });
    material.exponent = 30;
    const result = await recipeOf('metal-rough').make(material, inputs, {}, () => {});
    // alpha = sqrt(2 / 32) = 0.25, roughness = 0.5.
    expect(slot(result, 'roughness')?.value).toBeCloseTo(0.5, 9);
    expect(slot(result, 'metalness')?.value).toBe(0);
    expect(result).toMatchObject({ workflow: 'metalRough', exponent: null });
  });

  it('takes a grey legacy highlight for a dielectric and a tinted one for a metal', async () => {
    const of = (specular: [number, number, number]) =>
      make('metal-rough', 'legacy', {
        baseColor: { value: [0.05, 0.04, 0.02] },
        specularColor: { value: specular },
      });
    expect(slot(await of([0.5, 0.5, 0.5]), 'metalness')?.value).toBe(0);
    expect(slot(await of([0.5, 0.5, 0.5]), 'baseColor')).toBeUndefined();
    expect(slot(await of([0.9, 0.7, 0.35]), 'metalness')?.value).toBeGreaterThan(0.95);
  });
});

describe('to legacy', () => {
  it('gives the exponent of the roughness', async () => {
    const result = await make('legacy', 'metalRough', {
      baseColor: { value: [0.8, 0.4, 0.2] },
      roughness: { value: 0.5 },
      metalness: { value: 1 },
    });
    // 2 / 0.5^4 - 2 = 30
    expect(result.exponent).toBe(30);
    expect(slot(result, 'specularColor')?.value).toEqual([
      expect.closeTo(0.8, 9),
      expect.closeTo(0.4, 9),
      expect.closeTo(0.2, 9),
    ]);
    expect(slot(result, 'baseColor')?.value).toEqual([0, 0, 0]);
  });
});

describe('tint', () => {
  it('multiplies in light, as oiiotool does', async () => {
    const codes8 = Array.from({ length: 256 }, (_, i) => i);
    const base = image(
      256,
      1,
      4,
      codes8.flatMap((code) => [code, code, code, 255 - code]),
    );
    const result = await make('bake-tint', 'metalRough', {
      baseColor: { value: [0.5, 0.25, 1], pixels: base },
    });
    const flat = codes8.flatMap((code) => [code, code, code]);
    const path = put('tint.png', await encodePng(image(256, 1, 3, flat)));
    oiiotool(
      path,
      '--iscolorspace',
      'sRGB',
      '--tocolorspace',
      'linear',
      '--mulc',
      '0.5,0.25,1',
      '--tocolorspace',
      'sRGB',
      '-d',
      'uint8',
      '-o',
      `${scratch}/tinted.png`,
    );
    const outside = decodeOutside(`${scratch}/tinted.png`, '0,1,2');
    const { data } = made(result, 'baseColor');
    for (let i = 0; i < 256; i += 1) {
      for (const [k, factor] of [0.5, 0.25, 1].entries()) {
        expect(Math.abs(data[i * 4 + k] - encode(decode(i) * factor))).toBeLessThanOrEqual(1);
        expect(Math.abs(data[i * 4 + k] - outside[i * 3 + k])).toBeLessThanOrEqual(1);
      }
      expect(data[i * 4 + 3]).toBe(255 - i);
    }
    expect(slot(result, 'baseColor')?.value).toEqual([1, 1, 1]);
  });
});

describe('a colour that reads one number of its image', () => {
  const coloured = image(2, 1, 3, [200, 100, 50, 10, 250, 90]);
  const of = async (component: MapUse['component'], pixels: PixelBuffer) => [
    ...made(
      await make('bake-tint', 'metalRough', {
        baseColor: { value: [0.5, 0.25, 1], pixels, use: { component } },
      }),
      'baseColor',
    ).data,
  ];
  const tinted = (code: number) => [0.5, 0.25, 1].map((factor) => encode(decode(code) * factor));
  const near = (found: number[], expected: number[]) =>
    expected.forEach((code, i) => expect(Math.abs(found[i] - code)).toBeLessThanOrEqual(1));

  it('takes its luminance by the weights of Rec.709, of the stored numbers', async () => {
    near(await of('luminance', coloured), [
      ...tinted(0.2126 * 200 + 0.7152 * 100 + 0.0722 * 50),
      ...tinted(0.2126 * 10 + 0.7152 * 250 + 0.0722 * 90),
    ]);
  });

  it('takes a component, and of a grey image the one that there is', async () => {
    near(await of('g', coloured), [...tinted(100), ...tinted(250)]);
    for (const component of ['luminance', 'rgb', 'b'] as const)
      near(await of(component, image(2, 1, 1, [200, 40])), [...tinted(200), ...tinted(40)]);
    near(await of('luminance', image(1, 1, 2, [200, 7])), tinted(200));
  });

  it('reads floats as they are', async () => {
    const floats = { width: 1, height: 1, components: 3, data: Float32Array.of(0.25, 0.5, 2) };
    const { data } = made(
      await make('bake-tint', 'metalRough', {
        baseColor: { value: [0.5, 0.25, 1], pixels: floats, use: { space: 'lin_rec709_scene' } },
      }),
      'baseColor',
    );
    [0.125, 0.125, 2].forEach((value, i) => expect(data[i]).toBeCloseTo(value, 6));
  });
});

describe('occlusion in the base colour', () => {
  it('is divided out where it was multiplied in', async () => {
    const clean = [200, 120, 60, 90, 180, 240];
    const occlusion = image(2, 1, 1, [255, 128]);
    const dark = clean.map((code, i) => Math.round((code * (i < 3 ? 255 : 128)) / 255));
    const result = await make('remove-occlusion', 'metalRough', {
      baseColor: { value: [1, 1, 1], pixels: image(2, 1, 3, dark) },
      occlusion: { pixels: occlusion },
    });
    made(result, 'baseColor').data.forEach((value, i) =>
      expect(Math.abs(value - clean[i])).toBeLessThanOrEqual(1),
    );
    const half = await make(
      'remove-occlusion',
      'metalRough',
      { baseColor: { value: [1, 1, 1], pixels: image(2, 1, 3, dark) }, occlusion: { pixels: occlusion } },
      { strength: 0.5 },
    );
    // mix(1, 128/255, 0.5) = 0.75098
    expect(made(half, 'baseColor').data[3]).toBe(Math.round(dark[3] / 0.75098));
  });
});

describe('normals from grey', () => {
  it('come from heights by themselves, and from another map only where it is named', () => {
    const recipe = recipeOf('normal');
    const of = (...channels: ('height' | 'bump' | 'baseColor' | 'roughness')[]) => {
      const material = createMaterial('Quay', 'metalRough');
      for (const channel of channels)
        material.channels[channel] = {
          value: 1,
          map: createMapUse(`${channel}.png`, channel),
          source: { from: 'file', detail: '' },
        };
      return material;
    };
    expect(recipe.refuses(of('baseColor'), { from: 'height' })).toMatch(/no height; choose base colour/);
    expect(recipe.reads(of('baseColor'), { from: 'height' })).toEqual([]);
    expect(recipe.reads(of('baseColor'), { from: 'baseColor' })).toEqual(['baseColor']);
    expect(recipe.reads(of('baseColor', 'bump'), { from: 'height' })).toEqual(['bump']);
    expect(recipe.reads(of('baseColor', 'bump', 'roughness'), { from: 'roughness' })).toEqual(['roughness']);
    expect(recipe.refuses(of(), { from: 'height' })).toMatch(/no map has grey levels/);
  });

  it('know a plane: one level per width at a strength of one width has the slope 1', async () => {
    // Heights rise by 8 codes per pixel to the right; the strength is 10% of 32 pixels.
    const ramp = image(
      GRID,
      GRID,
      1,
      codes.map(([a]) => a),
    );
    const params = { from: 'height', strength: 10 };
    const result = await make(
      'normal',
      'metalRough',
      { height: { pixels: ramp, use: { wrap: ['clamp', 'clamp'] } } },
      params,
    );
    const slope = (8 / 255) * 0.1 * GRID;
    const length = Math.hypot(slope, 1);
    const { data } = made(result, 'normal');
    const index = (GRID * 16 + 16) * 3;
    [0.5 - 0.5 * (slope / length), 0.5, 0.5 + 0.5 / length].forEach((value, k) =>
      expect(Math.abs(data[index + k] - value * 255)).toBeLessThanOrEqual(0.51),
    );
  });

  it('are smoothed by two boxes of the radius, which make a tent', async () => {
    // One bright pixel: after a box of three, twice, its row is 1 2 3 2 1 ninths of it.
    const centre = 16;
    const dot = image(
      GRID,
      GRID,
      1,
      Array.from({ length: GRID * GRID }, (_, i) => (i === GRID * centre + centre ? 255 : 0)),
    );
    const result = await make(
      'normal',
      'metalRough',
      { height: { pixels: dot } },
      { from: 'height', strength: 10, smooth: 1 },
    );
    const { data } = made(result, 'normal');
    const tent = (d: number) => Math.max(0, 3 - Math.abs(d)) / 9;
    const height = (x: number, y: number) => tent(x - centre) * tent(y - centre) * 0.1 * GRID;
    for (const [x, y] of [
      [centre - 1, centre],
      [centre + 2, centre + 1],
      [centre, centre],
      [centre + 3, centre],
    ]) {
      // Scharr: three rows by 3, 10 and 3 sixteenths.
      const slope = [-1, 0, 1].reduce(
        (sum, k) => sum + ((k === 0 ? 10 : 3) / 16) * ((height(x + 1, y + k) - height(x - 1, y + k)) / 2),
        0,
      );
      const across = [-1, 0, 1].reduce(
        (sum, k) => sum + ((k === 0 ? 10 : 3) / 16) * ((height(x + k, y + 1) - height(x + k, y - 1)) / 2),
        0,
      );
      const length = Math.hypot(slope, across, 1);
      expect(Math.abs(data[(GRID * y + x) * 3] - (0.5 - (0.5 * slope) / length) * 255)).toBeLessThanOrEqual(
        0.6,
      );
      expect(Math.abs(data[(GRID * y + x) * 3 + 2] - (0.5 + 0.5 / length) * 255)).toBeLessThanOrEqual(0.6);
    }
  });

  it('point green up for Y+ where the surface rises downwards in the image, and down for Y-', async () => {
    const ramp = image(
      GRID,
      GRID,
      1,
      codes.map(([, b]) => b),
    );
    const use = { wrap: ['clamp', 'clamp'] as MapUse['wrap'] };
    const green = async (direction: string, bright = 'high') =>
      made(
        await make(
          'normal',
          'metalRough',
          { bump: { pixels: ramp, use } },
          { from: 'bump', strength: 10, direction, bright },
        ),
        'normal',
      ).data[(GRID * 16 + 16) * 3 + 1];
    expect(await green('Y+')).toBeGreaterThan(135);
    expect(await green('Y-')).toBeLessThan(120);
    expect(await green('Y+', 'low')).toBeLessThan(120);
  });

  it('replaces a bump map, and leaves the height where it was', async () => {
    const flat = image(2, 2, 1, [9, 9, 9, 9]);
    expect(slot(await make('normal', 'metalRough', { bump: { pixels: flat } }), 'bump')).toMatchObject({
      value: null,
    });
    expect(slot(await make('normal', 'metalRough', { height: { pixels: flat } }), 'height')).toBeUndefined();
  });
});

describe('edges', () => {
  const cut = (pixels: PixelBuffer): Slots => ({
    baseColor: { value: [1, 1, 1], pixels, use: { image: 'net.png' } },
    opacity: { pixels, use: { image: 'net.png', component: 'a' } },
  });

  it('get their full colour back from premultiplied numbers', async () => {
    const straight = [200, 100, 50];
    const pixels = image(
      3,
      1,
      4,
      [255, 128, 64].flatMap((alpha) => [...straight.map((code) => Math.round((code * alpha) / 255)), alpha]),
    );
    const { data } = made(await make('undo-premultiplied', 'metalRough', cut(pixels)), 'baseColor');
    [0, 1, 2].forEach((x) =>
      straight.forEach((code, k) => expect(Math.abs(data[x * 4 + k] - code)).toBeLessThanOrEqual(2)),
    );
    expect([data[3], data[7], data[11]]).toEqual([255, 128, 64]);
  });

  it('are padded with the nearest whole colour as far as the width reaches, alpha untouched', async () => {
    const size = 48;
    const data = new Uint8Array(size * size * 4);
    const whole = [
      [10, 12, 200, 30, 0],
      [35, 30, 0, 90, 250],
    ];
    for (const [x, y, r, g, b] of whole) data.set([r, g, b, 255], (y * size + x) * 4);
    const out = made(
      await make('pad-edges', 'metalRough', cut(image(size, size, 4, data)), { width: 20 }),
      'baseColor',
    ).data;
    for (let y = 0; y < size; y += 1) {
      for (let x = 0; x < size; x += 1) {
        const index = (y * size + x) * 4;
        const [near, far] = whole
          .map(([wx, wy], i) => ({ i, d: Math.hypot(wx - x, wy - y) }))
          .sort((a, b) => a.d - b.d);
        expect(out[index + 3]).toBe(data[index + 3]);
        if (near.d > 21) expect([...out.slice(index, index + 3)], `${x} ${y}`).toEqual([0, 0, 0]);
        else if (near.d < 19 && far.d - near.d > 1)
          expect([...out.slice(index, index + 3)], `${x} ${y}`).toEqual(whole[near.i].slice(2));
      }
    }
  });
});

describe('recipes', () => {
  it('say why they cannot be done', () => {
    const { material } = materialOf('metalRough', { baseColor: { value: [1, 1, 1] } });
    for (const { id, refuses } of RECIPES)
      if (!['spec-gloss', 'legacy'].includes(id)) expect(refuses(material), id).toMatch(/\w/);
  });

  it('keep parameters in their ranges and choices', () => {
    const { params } = recipeOf('normal');
    expect(completeParams(params, { strength: 99, direction: 'sideways', from: 'bump', other: 1 })).toEqual({
      from: 'bump',
      strength: 10,
      smooth: 0,
      bright: 'high',
      direction: 'Y+',
    });
  });
});
