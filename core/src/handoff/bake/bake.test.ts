import Color from 'colorjs.io';
import { describe, expect, it } from 'vitest';
import { webGltf } from '../../destinations/webGltf.ts';
import { decodeImage } from '../../images/decode.ts';
import { encodePng } from '../../images/encode.ts';
import { encodeExr } from '../../images/exr.ts';
import type { PixelBuffer } from '../../images/pixelBuffer.ts';
import { repairNormal } from '../../maps/normalRepair.ts';
import type { Vec3 } from '../../scene/document.ts';
import type { MapUse, Material } from '../../scene/material.ts';
import { testImage, testMaterial, testState } from '../../test/assets.ts';
import { planHandoff } from '../plan/plan.ts';
import { bakeImage } from './bake.ts';

/** Bakes what one channel of a material becomes for glTF, and decodes it again. */
async function bake(
  channel: 'baseColor' | 'normal' | 'roughness',
  use: Partial<MapUse>,
  bytes: Uint8Array,
  info: Parameters<typeof testImage>[1],
): Promise<PixelBuffer> {
  const state = testState([testMaterial('Hull', { [channel]: { ...use, image: 'hull.img' } })]);
  const plan = planHandoff(state, [testImage('hull.img', { width: 2, height: 1, ...info })], webGltf);
  return decodeImage(await bakeImage(plan.images[0], async () => bytes), 'out.png');
}

describe('baking colour', () => {
  it('brings wide and linear spaces to sRGB as colorjs.io does', async () => {
    const colours = [0.21, 0.4, 0.08, 0.6, 0.55, 0.5];
    const exr = await encodeExr({ width: 2, height: 1, components: 3, data: Float32Array.from(colours) }, 32);
    const out = await bake('baseColor', { space: 'lin_ap1_scene' }, exr, {
      format: 'exr',
      floating: true,
      bitDepth: 32,
    });
    for (const i of [0, 1]) {
      const expected = new Color('acescg', colours.slice(i * 3, i * 3 + 3) as [number, number, number]).to(
        'srgb',
      ).coords;
      for (const k of [0, 1, 2])
        expect(Math.abs(out.data[i * 3 + k] / 255 - (expected[k] ?? 0))).toBeLessThan(0.6 / 255);
    }
  });

  it('raises to the exponent before the curve', async () => {
    const exr = await encodeExr(
      { width: 2, height: 1, components: 3, data: new Float32Array(6).fill(0.5) },
      32,
    );
    const out = await bake('baseColor', { space: 'lin_rec709_scene', exponent: 2.2 }, exr, {
      format: 'exr',
      floating: true,
      bitDepth: 32,
    });
    // 0.5^2.2 = 0.21764, encoded by IEC 61966-2-1.
    expect(out.data[0]).toBe(Math.round((1.055 * 0.5 ** (2.2 / 2.4) - 0.055) * 255));
  });

  it('hands on images that are sRGB already, byte for byte', async () => {
    const png = await encodePng({
      width: 2,
      height: 1,
      components: 3,
      data: Uint8Array.of(1, 2, 3, 4, 5, 6),
    });
    expect([...(await bake('baseColor', {}, png, {})).data]).toEqual([1, 2, 3, 4, 5, 6]);
  });
});

describe('baking scalars', () => {
  it('reads numbers that are stored under a curve through it, and plain ones as they are', async () => {
    const png = await encodePng({ width: 2, height: 1, components: 1, data: Uint8Array.of(64, 188) });
    const tagged = await bake('roughness', { space: 'srgb_rec709_scene' }, png, { components: 1 });
    const plain = await bake('roughness', { space: 'data' }, png, { components: 1 });
    // Green of the packed image. The decoding of IEC 61966-2-1: 64 is 0.0513, 188 is 0.5029.
    expect([tagged.data[1], tagged.data[4]]).toEqual([
      Math.round(0.05126946 * 255),
      Math.round(0.50288646 * 255),
    ]);
    expect([plain.data[1], plain.data[4]]).toEqual([64, 188]);
  });
});

describe('baking normals', () => {
  const code = (value: number) => Math.round((value * 0.5 + 0.5) * 255);

  it('brings vectors to unit length', async () => {
    // (0.3, -0.4, 0) and (0, 0, 0.5): lengths 0.5.
    const png = await encodePng({
      width: 2,
      height: 1,
      components: 3,
      data: Uint8Array.from([0.3, -0.4, 0, 0, 0, 0.5], code),
    });
    const out = await bake('normal', { repair: 'unit' }, png, {});
    [0.6, -0.8, 0, 0, 0, 1].forEach((value, i) =>
      expect(Math.abs(out.data[i] - code(value))).toBeLessThanOrEqual(2),
    );
  });

  it('leans them by the strength, about the straight one', async () => {
    const png = await encodePng({
      width: 2,
      height: 1,
      components: 3,
      data: Uint8Array.from([0.6, 0, 0.8, 0, -0.6, 0.8], code),
    });
    const out = await bake('normal', { strength: 0.5 }, png, {});
    // (0.3, 0, 0.8) and (0, -0.3, 0.8), of length 0.8544.
    [0.3511, 0, 0.9363, 0, -0.3511, 0.9363].forEach((value, i) =>
      expect(Math.abs(out.data[i] - code(value))).toBeLessThanOrEqual(1.5),
    );
    const turned = await bake('normal', { strength: 3, normalY: 'Y-' }, png, {});
    // (1.8, 0, 0.8) and (0, 1.8, 0.8), of length 1.9698.
    [0.9138, 0, 0.4061, 0, 0.9138, 0.4061].forEach((value, i) =>
      expect(Math.abs(turned.data[i] - code(value))).toBeLessThanOrEqual(2.5),
    );
  });

  it('takes them by the range that the file states', async () => {
    const png = await encodePng({ width: 1, height: 1, components: 3, data: Uint8Array.of(204, 204, 230) });
    const range = { scale: [1, 0.5, 2] as Vec3, bias: [-0.4, -0.3, -1] as Vec3 };
    const out = await bake('normal', { range }, png, {});
    // 0.8, 0.8 and 0.902 become (0.4, 0.1, 0.804), which is 0.9035 long.
    [0.4427, 0.1107, 0.8899].forEach((value, i) =>
      expect(Math.abs(out.data[i] - code(value))).toBeLessThanOrEqual(1),
    );
  });

  it('makes blue from red and green, and then turns green', async () => {
    const png = await encodePng({
      width: 2,
      height: 1,
      components: 3,
      data: Uint8Array.of(code(0.6), code(0), 0, code(0), code(0.8), 0),
    });
    const out = await bake('normal', { repair: 'blue', normalY: 'Y-' }, png, {});
    [0.6, 0, 0.8, 0, -0.8, 0.6].forEach((value, i) =>
      expect(Math.abs(out.data[i] - code(value))).toBeLessThanOrEqual(2),
    );
  });

  it('repairs single vectors by the formulas', () => {
    const stored = (x: number, y: number, z: number) =>
      [x, y, z].map((value) => value * 0.5 + 0.5) as [number, number, number];
    const close = (found: readonly number[], x: number, y: number, z: number) =>
      stored(x, y, z).forEach((value, i) => expect(found[i]).toBeCloseTo(value, 6));
    close(repairNormal(stored(0, 3, 4), 'unit'), 0, 0.6, 0.8);
    close(repairNormal(stored(0.6, 0, -1), 'blue'), 0.6, 0, 0.8);
    close(repairNormal(stored(2, 0, 0), 'blue'), 1, 0, 0);
    close(repairNormal(stored(0, 0, 0), 'unit'), 0, 0, 1);
  });
});

/** What a plane of a material becomes in another size, as 8-bit codes. */
async function resized(
  channels: Parameters<typeof testMaterial>[1],
  [from, to]: readonly [PixelBuffer, readonly [number, number]],
  change: (material: Material) => void = () => {},
): Promise<number[]> {
  const material = testMaterial('Hull', channels);
  change(material);
  const { width, height, components } = from;
  const info = { width, height, components, bitDepth: 8 as const, floating: false };
  const plan = planHandoff(testState([material]), [testImage('hull.img', info)], webGltf);
  const image = { ...plan.images[0], copyOf: null, width: to[0], height: to[1] };
  const out = await decodeImage(await bakeImage(image, async () => encodePng(from)), 'out.png');
  return [...out.data];
}

describe('baking in another size', () => {
  const row = (components: number, ...values: number[]): PixelBuffer => ({
    width: values.length / components,
    height: 1,
    components,
    data: Uint8Array.from(values),
  });
  const one = [1, 1] as const;

  it('averages colours as light, and what is no colour as it is stored', async () => {
    const grey = row(3, 0, 0, 0, 255, 255, 255);
    // Half the light is 0.7354 by the curve of IEC 61966-2-1.
    expect(await resized({ baseColor: 'hull.img' }, [grey, one])).toEqual([188, 188, 188]);
    const rough = await resized({ roughness: 'hull.img' }, [row(1, 0, 255), one]);
    expect(rough[1]).toBe(128);
  });

  it('brings averaged vectors to unit length', async () => {
    // (0.6, 0, 0.8) and (0, 0, 1): half way is (0.3, 0, 0.9), 0.9487 long.
    const vectors = row(3, 204, 128, 230, 128, 128, 255);
    const out = await resized({ normal: 'hull.img' }, [vectors, one]);
    [0.316, 0, 0.949].forEach((value, i) =>
      expect(Math.abs(out[i] - (value * 0.5 + 0.5) * 255)).toBeLessThanOrEqual(1.5),
    );
  });

  it('turns green where the destination wants it, of whole and of averaged vectors', async () => {
    const vectors = row(3, 128, 204, 230, 128, 204, 230);
    const turn = ({ channels: { normal } }: Material) => {
      if (normal?.map) normal.map.normalY = 'Y-';
    };
    for (const size of [one, [2, 1]] as const)
      expect((await resized({ normal: 'hull.img' }, [vectors, size], turn)).slice(0, 3)).toEqual([
        128, 51, 230,
      ]);
  });

  it('keeps the cut-out of a mask, and blends as they average', async () => {
    // Lines one pixel wide in every fourth column of the alpha.
    const size = 32;
    const data = Uint8Array.from({ length: size * size * 4 }, (_, i) =>
      i % 4 < 3 ? 90 : (i >> 2) % 4 === 1 ? 255 : 0,
    );
    const net: PixelBuffer = { width: size, height: size, components: 4, data };
    const there = async (alphaMode: Material['alphaMode']) => {
      const out = await resized(
        { baseColor: 'hull.img', opacity: 'hull.img' },
        [net, [16, 16]],
        (material) => {
          Object.assign(material, { alphaMode, alphaCutoff: 0.6 });
          Object.assign(material.channels.opacity?.map ?? {}, { component: 'a' });
        },
      );
      return out.filter((value, i) => i % 4 === 3 && value >= 0.6 * 255).length / 256;
    };
    expect(await there('blend')).toBe(0);
    expect(await there('mask')).toBeGreaterThan(0.2);
  });

  it('lets what lies beyond an edge be what the texture repeats or holds', async () => {
    const ends = row(1, 255, 0, 0, 0, 0, 0, 0, 0);
    const last = async (wrap: MapUse['wrap'], filter?: MapUse['filter']) => {
      const out = await resized({ roughness: 'hull.img' }, [ends, [4, 1]], ({ channels: { roughness } }) => {
        Object.assign(roughness?.map ?? {}, { wrap, ...(filter ? { filter } : {}) });
      });
      return [out[1], out[10]];
    };
    const [first, repeated] = await last(['repeat', 'repeat']);
    expect(repeated).toBeGreaterThan(0);
    const [held, dark] = await last(['clamp', 'clamp']);
    expect(dark).toBe(0);
    // Beyond a held edge it stays bright.
    expect(held).toBeGreaterThan(first);
    // Unfiltered swatches are averaged within their own pixels: half of 255, and nothing of the neighbours.
    expect(await last(['repeat', 'repeat'], 'nearest')).toEqual([128, 0]);
  });

  it('reads two components as the first two of a vector', async () => {
    const out = await resized(
      { normal: 'hull.img' },
      [row(2, 204, 128, 128, 204), [2, 1]],
      ({ channels }) => {
        Object.assign(channels.normal?.map ?? {}, { repair: 'blue' });
      },
    );
    [204, 128, 230, 128, 204, 230].forEach((value, i) =>
      expect(Math.abs(out[i] - value)).toBeLessThanOrEqual(1),
    );
  });
});
