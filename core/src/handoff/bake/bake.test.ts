import Color from 'colorjs.io';
import { describe, expect, it } from 'vitest';
import { webGltf } from '../../destinations/webGltf.ts';
import { decodeImage } from '../../images/decode.ts';
import { encodePng } from '../../images/encode.ts';
import { encodeExr } from '../../images/exr.ts';
import type { PixelBuffer } from '../../images/pixelBuffer.ts';
import { repairNormal } from '../../maps/normalRepair.ts';
import type { Vec3 } from '../../scene/document.ts';
import type { MapUse } from '../../scene/material.ts';
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
