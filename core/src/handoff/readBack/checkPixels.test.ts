import { describe, expect, it } from 'vitest';
import { webGltf } from '../../destinations/webGltf.ts';
import { decodeImage } from '../../images/decode.ts';
import { encodeImage, encodePng } from '../../images/encode.ts';
import { testImage, testMaterial, testState } from '../../test/assets.ts';
import { bakeImage } from '../bake/bake.ts';
import { planHandoff } from '../plan/plan.ts';
import { checkPixels } from './checkPixels.ts';

const SIDE = 64;

const grey = (of: (i: number) => number) => Uint8Array.from({ length: SIDE * SIDE }, (_, i) => of(i));
const level = (i: number) => 40 + ((i * 7) % 160);

/** Plans the packed image of a roughness map, and gives it with what was baked. */
async function planned({
  of = level,
  size = 0,
  ...use
}: {
  invert?: boolean;
  gain?: number;
  offset?: number;
  size?: number;
  of?: (i: number) => number;
} = {}) {
  const source = await encodePng({ width: SIDE, height: SIDE, components: 1, data: grey(of) });
  const state = testState([
    testMaterial('Hull', { roughness: { image: 'rough.png', component: 'r', ...use } }),
  ]);
  const images = [testImage('rough.png', { width: SIDE, height: SIDE, components: 1 })];
  const { images: all } = planHandoff(state, images, { ...webGltf, maxSize: size });
  const read = async () => source;
  return { image: all[0], read, baked: await bakeImage(all[0], read) };
}

/** The baked image with another green. */
async function withGreen(baked: Uint8Array, of: (i: number) => number): Promise<Uint8Array> {
  const { width, height, components, data } = await decodeImage(baked, 'baked.png');
  const changed = Uint8Array.from(data);
  for (let i = 0; i < width * height; i += 1) changed[i * components + 1] = of(i);
  return encodePng({ width, height, components, data: changed });
}

describe('pixels of a written image', () => {
  it('are what was baked', async () => {
    const { image, read, baked } = await planned();
    expect(await checkPixels(image, baked, read)).toMatchObject({
      ok: true,
      check: `pixels of ${image.file}`,
    });
    expect((await checkPixels(image, baked, read)).expected).toBe(
      '64 x 64, 8 bits, within 1/255 of the sources',
    );
  });

  it('may be one step off, and not two', async () => {
    const { image, read, baked } = await planned();
    expect((await checkPixels(image, await withGreen(baked, level), read)).ok).toBe(true);
    expect((await checkPixels(image, await withGreen(baked, (i) => level(i) + 1), read)).ok).toBe(true);
    const off = await checkPixels(image, await withGreen(baked, (i) => level(i) + 2), read);
    expect(off).toMatchObject({ ok: false });
    expect(off.found).toContain('at most 2.00/255 apart');
  });

  it('are inverted where that was planned', async () => {
    const { image, read, baked } = await planned({ invert: true });
    expect((await checkPixels(image, await withGreen(baked, (i) => 255 - level(i)), read)).ok).toBe(true);
    expect((await checkPixels(image, await withGreen(baked, level), read)).ok).toBe(false);
  });

  it('are scaled and shifted where that was planned', async () => {
    const { image, read, baked } = await planned({ gain: 0.5, offset: 0.25 });
    expect(
      (await checkPixels(image, await withGreen(baked, (i) => Math.round(level(i) * 0.5 + 0.25 * 255)), read))
        .ok,
    ).toBe(true);
    for (const shift of [-0.25, 0])
      expect(
        (
          await checkPixels(
            image,
            await withGreen(baked, (i) => Math.max(0, level(i) * 0.5 + shift * 255)),
            read,
          )
        ).ok,
      ).toBe(false);
  });

  it('are there, in the size and the depth that was planned', async () => {
    const { image, read } = await planned();
    expect(await checkPixels(image, null, read)).toMatchObject({ ok: false, found: 'none' });
    const small = await encodePng({
      width: 32,
      height: 32,
      components: 3,
      data: new Uint8Array(32 * 32 * 3),
    });
    expect((await checkPixels(image, small, read)).ok).toBe(false);
    const deep = await encodeImage(
      {
        width: SIDE,
        height: SIDE,
        components: 3,
        data: new Uint16Array(SIDE * SIDE * 3).map((_, i) => {
          if (i % 3 === 1) return level(Math.floor(i / 3)) * 257;
          return i % 3 === 0 ? 65535 : 0;
        }),
      },
      'png',
    );
    const found = await checkPixels(image, deep, read);
    expect(found.ok).toBe(false);
    expect(found.found).toContain('in another depth');
  });

  it('are compared by the means of regions where they were made smaller', async () => {
    const { image, read, baked } = await planned({ size: 32 });
    expect(image.width).toBe(32);
    const right = await checkPixels(image, baked, read);
    expect(right.ok).toBe(true);
    expect(right.found).toContain('means of 16 regions');
    // Made smaller along either side, each region has its own mean.
    for (const of of [(i: number) => (i % SIDE) * 4, (i: number) => Math.floor(i / SIDE) * 4]) {
      const { image: own, read: source, baked: small } = await planned({ size: 32, of });
      expect((await checkPixels(own, small, source)).ok).toBe(true);
      expect(
        (
          await checkPixels(
            own,
            await withGreen(small, (i) => of((i % 32) * 64 + Math.floor(i / 32))),
            source,
          )
        ).ok,
      ).toBe(false);
    }
    // Right by the whole's mean, and wrong in each region.
    const mean = 40 + 79.5;
    expect(
      (await checkPixels(image, await withGreen(baked, (i) => (i % 32 < 16 ? mean - 30 : mean + 30)), read))
        .ok,
    ).toBe(false);
  });
});
