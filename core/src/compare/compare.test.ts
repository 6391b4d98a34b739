import Color from 'colorjs.io';
import { describe, expect, it } from 'vitest';
import { encodePng } from '../images/encode.ts';
import type { MapUse, Material, Rgb } from '../scene/material.ts';
import { testMaterial, testState } from '../test/assets.ts';
import { readCarelessly } from './careless.ts';
import type { Reading } from './channelField.ts';
import {
  type ChannelDifference,
  COMPARE_DEFAULTS,
  compareChannel,
  compareMaterials,
} from './compareMaterials.ts';
import { differencePicture, type PairPicture } from './differencePicture.ts';
import { baseColourVerdict } from './verdict.ts';

const SIDE = 8;

/** A PNG whose pixels are all the same, or follow a rule. */
function png(
  components: number,
  entryAt: (x: number, y: number) => number[],
  side = SIDE,
): Promise<Uint8Array> {
  const data = Uint8Array.from({ length: side * side }, (_, i) => i).reduce(
    (out, i) => {
      out.set(entryAt(i % side, Math.floor(i / side)), i * components);
      return out;
    },
    new Uint8Array(side * side * components),
  );
  return encodePng({ width: side, height: side, components, data });
}

function reading(material: Material, files: Record<string, Uint8Array>, metresPerUnit = 1): Reading {
  const { materials, images } = testState([material]);
  return { materials, images, metresPerUnit, read: async (path) => files[path] };
}

async function differ(
  a: Material,
  b: Material,
  files: Record<string, Uint8Array>,
  filesB = files,
): Promise<Record<string, ChannelDifference>> {
  const all = await compareMaterials(
    { material: a, reading: reading(a, files) },
    { material: b, reading: reading(b, filesB) },
  );
  return Object.fromEntries(all.map((one) => [one.channel, one]));
}

const map = (image: string, use: Partial<MapUse> = {}) => ({ image, ...use });

/** Colours are compared as they are seen, by the sRGB curve. */
const curved = (light: number) => 1.055 * light ** (1 / 2.4) - 0.055;

describe('comparing channels', () => {
  it('finds nothing between the same', async () => {
    const files = { 'c.png': await png(3, (x, y) => [x * 30, y * 30, 90]) };
    const { baseColor } = await differ(
      testMaterial('Hull', { baseColor: 'c.png' }),
      testMaterial('Hull', { baseColor: 'c.png' }),
      files,
    );
    expect(baseColor).toMatchObject({
      mean: 0,
      largest: 0,
      beyond: 0,
      places: 64,
      deltaE: { mean: 0, largest: 0 },
    });
    expect(baseColourVerdict([{ material: 'Hull', channels: [baseColor] }])).toEqual({
      equal: true,
      largest: 0,
      compared: 1,
    });
  });

  it('measures colours as sRGB numbers and as people see them', async () => {
    const [a, b] = [
      await png(3, () => [200, 60, 40]),
      await png(3, (x) => (x < 2 ? [180, 60, 40] : [200, 60, 40])),
    ];
    const material = testMaterial('Hull', { baseColor: 'c.png' });
    const { baseColor } = await differ(material, material, { 'c.png': a }, { 'c.png': b });
    expect(baseColor.largest).toBeCloseTo(20 / 255, 5);
    expect(baseColor.mean).toBeCloseTo(20 / 255 / 4, 5);
    expect(baseColor.beyond).toBe(0.25);
    const [one, two] = [
      [200, 60, 40],
      [180, 60, 40],
    ].map(
      (codes) =>
        new Color('srgb', codes.map((code) => code / 255) as [number, number, number]).to('lab-d65').coords,
    );
    const outside = new Color('lab', one as [number, number, number]).deltaE(
      new Color('lab', two as [number, number, number]),
      '2000',
    );
    expect(baseColor.deltaE?.largest).toBeCloseTo(outside, 2);
    expect(baseColourVerdict([{ material: 'Hull', channels: [baseColor] }]).equal).toBe(false);
  });

  it('reads through components, inversion, factors and values', async () => {
    const files = {
      'orm.png': await png(3, (x) => [10, 20 + x, 200]),
      'gloss.png': await png(1, (x) => [235 - x]),
    };
    const packed = testMaterial('Hull', { roughness: map('orm.png', { component: 'g' }) });
    const gloss = testMaterial('Hull', { glossiness: 'gloss.png' });
    const { roughness } = await differ(packed, gloss, files);
    expect(roughness.largest).toBeLessThan(1e-6);
    // Half the value halves the roughness: 20 to 27 of 255, mean 23.5.
    const half = testMaterial('Hull', { roughness: map('orm.png', { component: 'g' }) });
    half.channels.roughness = {
      ...(half.channels.roughness as NonNullable<typeof half.channels.roughness>),
      value: 0.5,
    };
    expect((await differ(packed, half, files)).roughness.mean).toBeCloseTo(23.5 / 2 / 255, 5);
    // A value alone spreads over the other side's image.
    const flat = testMaterial('Hull');
    flat.channels.roughness = { value: 20 / 255, map: null, source: { from: 'file', detail: '' } };
    expect((await differ(packed, flat, files)).roughness.largest).toBeCloseTo(7 / 255, 5);
  });

  it('sees what a careless reader does', async () => {
    const files = {
      'r.png': await png(1, () => [128]),
      'n.png': await png(3, () => [128, 160, 240]),
      'c.png': await png(4, () => [90, 90, 90, 51]),
    };
    const material = testMaterial('Net', {
      baseColor: 'c.png',
      roughness: 'r.png',
      normal: 'n.png',
      opacity: map('c.png', { component: 'a' }),
    });
    material.alphaMode = 'blend';
    const [careless] = readCarelessly([material]);
    const found = await differ(material, careless, files);
    // 128 of 255 through the sRGB curve: ((0.50196 + 0.055) / 1.055) ^ 2.4.
    expect(found.roughness.b[0]).toBeCloseTo(((128 / 255 + 0.055) / 1.055) ** 2.4, 4);
    expect(found.normal.largest).toBeCloseTo((160 - 95) / 255, 4);
    expect(found.opacity).toMatchObject({ beyond: 1 });
    expect(found.opacity.largest).toBeCloseTo(1 - 51 / 255, 5);
    expect(found.baseColor.largest).toBe(0);
  });

  it('compares metal/rough with spec/gloss by diffuse and reflectance', async () => {
    const files = { 'b.png': await png(3, () => [188, 188, 188]) };
    const metal = testMaterial('Hull', { baseColor: 'b.png' });
    metal.channels.metalness = { value: 0.25, map: null, source: { from: 'file', detail: '' } };
    const base = new Color('srgb', [188 / 255, 0, 0]).to('srgb-linear').coords[0] ?? 0;
    const spec: Material = { ...testMaterial('Hull'), workflow: 'specGloss' };
    const origin = { from: 'file' as const, detail: '' };
    spec.channels.baseColor = { value: [0.75 * base, 0.75 * base, 0.75 * base], map: null, source: origin };
    const f0 = 0.04 * 0.75 + base * 0.25;
    spec.channels.specularColor = { value: [f0, f0, f0], map: null, source: origin };
    const found = await differ(metal, spec, files);
    expect(Object.keys(found)).toEqual(expect.arrayContaining(['diffuse', 'reflectance', 'roughness']));
    expect(found.baseColor).toBeUndefined();
    expect(found.diffuse.largest).toBeLessThan(1e-4);
    expect(found.reflectance.largest).toBeLessThan(1e-4);
  });

  it('compares what is tinted and weighed with the reflectance that it is', async () => {
    const files = {
      't.png': await png(3, () => [255, 188, 0]),
      'w.png': await png(1, () => [51]),
    };
    const tinted = testMaterial('Hull', { specularColor: 't.png', specular: 'w.png' });
    const origin = { from: 'file' as const, detail: '' };
    tinted.channels.metalness = { value: 0, map: null, source: origin };
    const half = new Color('srgb', [188 / 255, 0, 0]).to('srgb-linear').coords[0] ?? 0;
    const reflects = (value: Rgb) => {
      const spec: Material = { ...testMaterial('Hull'), workflow: 'specGloss' };
      spec.channels.specularColor = { value, map: null, source: origin };
      return differ(tinted, spec, files);
    };
    // A weight of 51 / 255 on 4%, tinted.
    expect((await reflects([0.008, 0.008 * half, 0])).reflectance.largest).toBeLessThan(1e-5);
    expect((await reflects([0.04, 0.04 * half, 0])).reflectance.largest).toBeCloseTo(
      curved(0.04) - curved(0.008),
      5,
    );
  });

  it('compares tints of metal/rough, and no classic highlight beside it', async () => {
    const origin = { from: 'file' as const, detail: '' };
    const hull = (workflow: Material['workflow'], value: Rgb): Material => {
      const material: Material = { ...testMaterial('Hull'), workflow };
      material.channels.metalness = { value: 1, map: null, source: origin };
      material.channels.specularColor = { value, map: null, source: origin };
      return material;
    };
    const of = async (a: Material, b: Material) => (await differ(a, b, {})).specularColor;
    expect((await of(hull('metalRough', [1, 1, 1]), hull('metalRough', [1, 0.5, 1]))).largest).toBeCloseTo(
      1 - curved(0.5),
      5,
    );
    expect(await of(hull('metalRough', [1, 1, 1]), hull('legacy', [1, 0.5, 1]))).toBeUndefined();
  });

  it('compares images of other sizes in the smaller one', async () => {
    const [large, small] = [
      await png(1, (x) => [x < 8 ? 40 : 200], 16),
      await png(1, (x) => [x < 4 ? 40 : 200], 8),
    ];
    const material = testMaterial('Hull', { occlusion: 'o.png' });
    const { occlusion } = await differ(material, material, { 'o.png': large }, { 'o.png': small });
    expect(occlusion).toMatchObject({ places: 64, sizes: ['16 x 16', '8 x 8'] });
    expect(occlusion.mean).toBeLessThan(0.05);
  });

  it('tells heights in metres', async () => {
    const files = { 'h.png': await png(1, (x) => [x < 4 ? 0 : 255]) };
    const [a, b] = [2, 3].map((value) => {
      const material = testMaterial('Quay', { height: 'h.png' });
      material.channels.height = {
        ...(material.channels.height as NonNullable<typeof material.channels.height>),
        value,
      };
      return material;
    });
    const sides = [a, b].map((material) => ({ material, reading: reading(material, files, 0.01) }));
    const all = await compareMaterials(sides[0], sides[1]);
    // What counts as beyond is a share of the whole range: 2 cm.
    expect(all.find(({ channel }) => channel === 'height')).toMatchObject({
      kind: 'length',
      largest: expect.closeTo(0.01, 6),
      mean: expect.closeTo(0.005, 6),
      limit: expect.closeTo(0.02 * COMPARE_DEFAULTS.limit, 9),
      beyond: 0.5,
      places: SIDE * SIDE,
      a: [expect.closeTo(0.01, 6)],
      b: [expect.closeTo(0.015, 6)],
    });
    // Pictures of lengths are drawn with the largest of both as white.
    const pair = await compareChannel('height', sides[0], sides[1]);
    if (!pair) throw new Error('no pair');
    const codesOf = (what: PairPicture) => {
      const { data } = differencePicture(pair, what);
      return [data[0], data[(SIDE - 1) * 3]];
    };
    expect(codesOf('a')).toEqual([0, 170]);
    expect(codesOf('b')).toEqual([0, 255]);
  });

  it('draws where they differ', async () => {
    const [a, b] = [await png(1, () => [100]), await png(1, (x) => [x === 3 ? 110 : 100])];
    const material = testMaterial('Hull', { roughness: 'r.png' });
    const pair = await compareChannel(
      'roughness',
      { material, reading: reading(material, { 'r.png': a }) },
      { material, reading: reading(material, { 'r.png': b }) },
    );
    if (!pair) throw new Error('no pair');
    const { data } = differencePicture(pair, 'difference', 8);
    const bark = [...data.slice(0, 3)];
    const columns = Array.from({ length: SIDE }, (_, x) => [...data.slice(x * 3, x * 3 + 3)]);
    expect(columns.filter((colour) => colour.join() !== bark.join())).toHaveLength(1);
    expect(columns[3].join()).not.toBe(bark.join());
    expect([...differencePicture(pair, 'a').data.slice(0, 3)]).toEqual([100, 100, 100]);
    expect(
      await compareChannel(
        'coat',
        { material, reading: reading(material, {}) },
        { material, reading: reading(material, {}) },
      ),
    ).toBeNull();
  });
});

describe('pictures of two sizes', () => {
  it('are laid on the grid of the smaller one, thinned pixel by pixel from the middle of its cells', async () => {
    const wide = async (width: number, height: number) =>
      encodePng({
        width,
        height,
        components: 1,
        data: Uint8Array.from({ length: width * height }, (_, i) => (i % width) * 10 + Math.floor(i / width)),
      });
    const material = testMaterial('A', { roughness: map('r.png', { component: 'r' }) });
    const fields = async (a: Uint8Array, b: Uint8Array, grid: number) => {
      const pair = await compareChannel(
        'roughness',
        { material, reading: reading(material, { 'r.png': a }) },
        { material, reading: reading(material, { 'r.png': b }) },
        { grid },
      );
      return [pair?.a, pair?.b].map((field) => ({
        size: [field?.width, field?.height],
        codes: Array.from(field?.values ?? [], (value) => Math.round(value * 255)),
      }));
    };
    // Of 8 by 4 pixels on a grid of 4: columns 1, 3, 5, 7 of rows 1 and 3.
    const [eight] = await fields(await wide(8, 4), await wide(8, 4), 4);
    expect(eight).toEqual({ size: [4, 2], codes: [11, 31, 51, 71, 13, 33, 53, 73] });
    const [large, small] = await fields(await wide(16, 8), await wide(8, 4), 4);
    expect([large.size, small]).toEqual([[4, 2], eight]);
    const [swapped] = await fields(await wide(8, 4), await wide(16, 8), 4);
    expect(swapped).toEqual(eight);
    // Colours are thinned with all three of their numbers.
    const colours = (width: number) =>
      encodePng({
        width,
        height: 1,
        components: 3,
        data: Uint8Array.from({ length: width * 3 }, (_, i) => (i % 3) * 100 + Math.floor(i / 3)),
      });
    const painted = testMaterial('B', { baseColor: map('c.png', { space: 'data' }) });
    const pair = await compareChannel(
      'baseColor',
      { material: painted, reading: reading(painted, { 'c.png': await colours(8) }) },
      { material: painted, reading: reading(painted, { 'c.png': await colours(16) }) },
      { grid: 4 },
    );
    expect(Array.from(pair?.a.values ?? [], (value) => Math.round(value * 255))).toEqual([
      1, 101, 201, 3, 103, 203, 5, 105, 205, 7, 107, 207,
    ]);
    // A line of pixels keeps its one row.
    expect((await fields(await wide(16, 1), await wide(8, 1), 4))[1].size).toEqual([4, 1]);
  });
});
