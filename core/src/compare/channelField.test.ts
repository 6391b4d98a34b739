import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { type ChannelName, createMapUse, type MapUse, type Rgb } from '../scene/material.ts';
import { Decoder, type Field, fieldOf, fitField, pathOfUse, type Reading } from './channelField.ts';

const IMAGE = {
  key: 'hull',
  written: 'hull.png',
  relative: null,
  status: 'found' as const,
  resolved: 'hull.png',
  how: '',
};

/** A reading whose one image has these codes, written by another encoder. */
async function readingOf(
  codes: number[],
  width: number,
  components: 1 | 2 | 3 | 4,
): Promise<Reading & { reads: number }> {
  const raw = { width, height: codes.length / components / width, channels: components };
  const bytes = new Uint8Array(
    await sharp(Uint8Array.from(codes), { raw })
      .toColourspace(components < 3 ? 'b-w' : 'srgb')
      .png()
      .toBuffer(),
  );
  const reading = {
    materials: [],
    images: [IMAGE],
    metresPerUnit: 1,
    reads: 0,
    read: async () => {
      reading.reads += 1;
      return bytes;
    },
  };
  return reading;
}

const codesOf = ({ values }: Field) => Array.from(values, (value) => Math.round(value * 255 * 1e3) / 1e3);

async function field(
  channel: ChannelName,
  use: Partial<MapUse>,
  codes: number[],
  { width = 1, components = 3 as 1 | 2 | 3 | 4, value = 1 as number | Rgb, grid = 0 } = {},
) {
  const reading = await readingOf(codes, width, components);
  return fieldOf(
    channel,
    { value, map: createMapUse('hull', channel, use) },
    { reading, decoder: new Decoder(reading) },
    { tile: null, grid },
  );
}

describe('a channel as a field of numbers', () => {
  it('is one place without an image, or where it is missing', async () => {
    const reading = { ...(await readingOf([0], 1, 1)), images: [] };
    const plain = (channel: ChannelName, value: number | Rgb, map: MapUse | null = null) =>
      fieldOf(channel, { value, map }, { reading, decoder: new Decoder(reading) }, { tile: null, grid: 0 });
    expect(await plain('roughness', 0.5)).toEqual({
      width: 1,
      height: 1,
      size: 1,
      values: Float32Array.of(0.5),
    });
    expect(await plain('baseColor', 0.5)).toEqual({
      width: 1,
      height: 1,
      size: 3,
      values: Float32Array.of(0.5, 0.5, 0.5),
    });
    expect(await plain('baseColor', [1, 0.5, 0], createMapUse('hull', 'baseColor'))).toEqual({
      width: 1,
      height: 1,
      size: 3,
      values: Float32Array.of(1, 0.5, 0),
    });
    expect(await plain('normal', 1)).toEqual({
      width: 1,
      height: 1,
      size: 3,
      values: Float32Array.of(0.5, 0.5, 1),
    });
  });

  it('reads its component through inversion, gain, offset and value', async () => {
    const one = async (use: Partial<MapUse>, value = 1) =>
      codesOf(await field('roughness', use, [51, 102, 204], { value }));
    expect(await one({ component: 'g' })).toEqual([102]);
    expect(await one({ component: 'b', invert: true })).toEqual([51]);
    expect(await one({ component: 'r', gain: 2, offset: 0.1 })).toEqual([51 * 2 + 25.5]);
    expect(await one({ component: 'r' }, 0.5)).toEqual([25.5]);
    const [grey] = await one({ component: 'luminance' });
    expect(grey).toBeCloseTo(0.2126 * 51 + 0.7152 * 102 + 0.0722 * 204, 2);
  });

  it('is light where it is a colour, times its value', async () => {
    const light = (code: number) => ((code / 255 + 0.055) / 1.055) ** 2.4;
    const { values } = await field('baseColor', {}, [255, 128, 0], { value: [0.5, 1, 1] });
    [0.5, light(128), 0].forEach((expected, k) => expect(values[k]).toBeCloseTo(expected, 5));
    expect(codesOf(await field('baseColor', { space: 'data' }, [255, 128, 0]))).toEqual([255, 128, 0]);
  });

  it('points Y+ where it is a normal', async () => {
    expect(codesOf(await field('normal', {}, [100, 60, 200]))).toEqual([100, 60, 200]);
    expect(codesOf(await field('normal', { normalY: 'Y-' }, [100, 60, 200]))).toEqual([100, 195, 200]);
  });

  it('picks pixels from the middle of each cell of the grid', async () => {
    // Rows of 0 1 2 3, 10 11 12 13, ...: of four by four cells of two the lower right of the middle.
    const codes = [0, 10, 20, 30].flatMap((row) => [0, 1, 2, 3].map((column) => row + column));
    const found = await field('roughness', { component: 'r' }, codes, { width: 4, components: 1, grid: 2 });
    expect([found.width, found.height, codesOf(found)]).toEqual([2, 2, [11, 13, 31, 33]]);
    const wide = await field('roughness', { component: 'r' }, codes.slice(0, 8), {
      width: 4,
      components: 1,
      grid: 2,
    });
    expect([wide.width, wide.height, codesOf(wide)]).toEqual([2, 1, [11, 13]]);
    expect(
      (await field('roughness', { component: 'r' }, codes, { width: 4, components: 1, grid: 4 })).width,
    ).toBe(4);
  });

  it('decodes an image once, whoever asks', async () => {
    const reading = await readingOf([1, 2, 3], 1, 3);
    const decoder = new Decoder(reading);
    await Promise.all([decoder.pixels('hull.png'), decoder.pixels('hull.png')]);
    expect(reading.reads).toBe(1);
  });
});

describe('which file a use reads', () => {
  const tiled = { ...IMAGE, tiles: [{ number: 1001, path: 'hull.1001.png' }] };

  it('is its image, or the tile that is asked for', () => {
    const use = createMapUse('hull', 'baseColor');
    expect(pathOfUse(use, [IMAGE], null)).toBe('hull.png');
    expect(pathOfUse(use, [tiled], 1001)).toBe('hull.1001.png');
    expect(pathOfUse(use, [tiled], 1002)).toBe('hull.png');
    expect(pathOfUse(use, [{ ...IMAGE, resolved: null }], null)).toBeNull();
    expect(pathOfUse(use, [], null)).toBeNull();
  });
});

describe('a field in another size', () => {
  it('stays, spreads out, or is resampled component by component', () => {
    const small: Field = { width: 1, height: 1, size: 3, values: Float32Array.of(1, 2, 3) };
    expect(fitField(small, 1, 1)).toBe(small);
    expect([...fitField(small, 2, 1).values]).toEqual([1, 2, 3, 1, 2, 3]);
    const flat: Field = {
      width: 2,
      height: 2,
      size: 3,
      values: Float32Array.of(1, 2, 3, 1, 2, 3, 1, 2, 3, 1, 2, 3),
    };
    const large = fitField(flat, 4, 4);
    expect([large.width, large.height, large.values.length]).toEqual([4, 4, 48]);
    large.values.forEach((value, i) => expect(value).toBeCloseTo((i % 3) + 1, 5));
  });
});
