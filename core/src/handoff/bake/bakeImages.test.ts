import { describe, expect, it } from 'vitest';
import { enginePacked } from '../../destinations/enginePacked.ts';
import type { Plane } from '../../images/components.ts';
import { decodeImage } from '../../images/decode.ts';
import { encodePng } from '../../images/encode.ts';
import { encodeTga } from '../../images/tga.ts';
import { createMapUse } from '../../scene/material.ts';
import { testImage, testMaterial, testState } from '../../test/assets.ts';
import { writtenHeight } from '../plan/heights.ts';
import { planHandoff } from '../plan/plan.ts';
import type { ImageSource, PlannedImage } from '../plan/planImage.ts';
import { groupedLines } from '../words.ts';
import { isLookedUp } from './bake.ts';
import { bakeImages, bakeKey, bakingSeconds } from './bakeImages.ts';
import { coverageOf, keepCoverage } from './coverage.ts';

/** Eight materials with a roughness of their own; each becomes a packed image. */
async function eight(side: number) {
  const names = Array.from({ length: 8 }, (_, i) => `m${i}`);
  const files = new Map<string, Uint8Array>();
  for (const [i, name] of names.entries())
    files.set(
      `${name}.png`,
      await encodePng({
        width: side,
        height: side,
        components: 1,
        data: new Uint8Array(side * side).fill(i * 20 + 10),
      }),
    );
  const state = testState(names.map((name) => testMaterial(name, { roughness: `${name}.png` })));
  const images = names.map((name) => testImage(`${name}.png`, { width: side, height: side, components: 1 }));
  return {
    plan: planHandoff(state, images, enginePacked),
    read: async (path: string) => files.get(path) as Uint8Array,
  };
}

describe('baking several images', () => {
  it('makes the same in threads of their own as in this one, of an odd size too', async () => {
    const { plan, read } = await eight(601);
    // Half of them are made smaller, which is work for a thread.
    const images = plan.images.map((image, i) => (i % 2 === 0 ? image : { ...image, width: 600 }));
    const [here, elsewhere] = [
      await bakeImages(images, read, { threads: 1 }),
      await bakeImages(images, read, { threads: 2 }),
    ];
    expect([...elsewhere.keys()]).toEqual([...here.keys()]);
    for (const [file, bytes] of here)
      expect(Buffer.compare(bytes, elsewhere.get(file) as Uint8Array), file).toBe(0);
    const { width } = await decodeImage(elsewhere.get('T_m3_ORM.png') as Uint8Array, 'a.png');
    expect(width).toBe(600);
    const { data } = await decodeImage(elsewhere.get('T_m3_ORM.png') as Uint8Array, 'a.png');
    expect([...data.slice(0, 3)]).toEqual([255, 70, 0]);
  });

  it('tells what a thread met, and where', async () => {
    const { plan, read } = await eight(600);
    const broken = async (path: string) =>
      path === 'm5.png' ? (await read(path)).slice(0, 400) : read(path);
    for (const threads of [1, 2])
      await expect(bakeImages(plan.images, broken, { threads })).rejects.toMatchObject({
        place: { file: 'm5.png' },
      });
  });

  it('does not make again what a cache knows, whatever it is called', async () => {
    const { plan, read } = await eight(8);
    const kept = new Map<string, Uint8Array>();
    let made = 0;
    const cache = {
      get: async (key: string) => kept.get(key) ?? null,
      put: async (key: string, bytes: Uint8Array) => void kept.set(key, bytes),
    };
    const progress = () => {
      made += 1;
    };
    await bakeImages(plan.images, read, { cache, progress });
    expect([made, kept.size]).toEqual([8, 8]);
    const renamed = plan.images.map((image) => ({ ...image, file: `other_${image.file}` }));
    expect((await bakeImages(renamed, read, { cache, progress })).get('other_T_m0_ORM.png')).toEqual(
      kept.get(bakeKey(plan.images[0])),
    );
    expect(made).toBe(8);
    const turned = plan.images.map((image) => ({
      ...image,
      components: image.components.map((one) =>
        one.from === 'image' ? { ...one, invert: !one.invert } : one,
      ),
    }));
    await bakeImages(turned, read, { cache, progress });
    expect(made).toBe(16);
  });

  it('keeps in this thread what is only looked up, and nothing else', async () => {
    const { plan, read } = await eight(8);
    const [image] = plan.images;
    const sources = new Map([['m0.png', await read('m0.png')]]);
    const changed = (change: Partial<PlannedImage>) => isLookedUp({ ...image, ...change }, sources);
    const source = image.components.find(({ from }) => from === 'image') as ImageSource;
    const reading = (change: Partial<ImageSource>) => changed({ components: [{ ...source, ...change }] });
    expect(await changed({})).toBe(true);
    expect(await reading({ invert: true, gain: 0.5 })).toBe(true);
    expect(await changed({ map: { ...image.map, type: 'tga' } })).toBe(false);
    expect(await changed({ map: { ...image.map, type: 'exr', depth: 'half' } })).toBe(false);
    expect(await changed({ width: 4 })).toBe(false);
    expect(await changed({ height: 16 })).toBe(false);
    expect(await reading({ channel: 'normal', repair: 'unit' })).toBe(false);
    const other = async (bytes: Uint8Array, component: ImageSource['component']) =>
      isLookedUp({ ...image, components: [{ ...source, component }] }, new Map([['m0.png', bytes]]));
    const colours = await encodePng({ width: 8, height: 8, components: 3, data: new Uint8Array(192) });
    expect([await other(colours, 'g'), await other(colours, 'luminance')]).toEqual([true, false]);
    const tga = encodeTga({ width: 8, height: 8, components: 1, data: new Uint8Array(64) });
    expect(await other(tga, 'r')).toBe(false);
    expect(await other(new Uint8Array(20), 'r')).toBe(false);
  });

  it('gives an image time by its numbers and its sources', async () => {
    const { plan } = await eight(8);
    // Three components of two million pixels out of two sources: 6 + 3 times 20 seconds.
    expect(bakingSeconds({ ...plan.images[0], width: 2000, height: 1000 }, 2, 20)).toBe(66);
  });

  it('stops when it is told to', async () => {
    const { plan, read } = await eight(8);
    const abort = new AbortController();
    const progress = (done: number) => done === 3 && abort.abort();
    await expect(
      bakeImages(plan.images, read, { signal: abort.signal, progress: (done) => void progress(done) }),
    ).rejects.toMatchObject({
      code: 'handoff.cancelled',
    });
  });
});

describe('cut-outs', () => {
  it('keep the share that is there', () => {
    // Lines one pixel wide in every fourth column: a quarter is there.
    const lines: Plane = {
      width: 64,
      height: 64,
      values: Float32Array.from({ length: 64 * 64 }, (_, i) => (i % 4 === 0 ? 1 : 0)),
    };
    const averaged: Plane = {
      width: 16,
      height: 16,
      values: Float32Array.from({ length: 256 }, (_, i) => 0.25 + 0.1 * Math.sin(i)),
    };
    expect(coverageOf(lines, 0.5)).toBe(0.25);
    expect(coverageOf(averaged, 0.5)).toBe(0);
    expect(Math.abs(coverageOf(keepCoverage(lines, averaged, 0.5), 0.5) - 0.25)).toBeLessThan(0.03);
  });

  it('are left as they were averaged where all or nothing is there', () => {
    const row = (...values: number[]): Plane => ({
      width: values.length,
      height: 1,
      values: Float32Array.from(values),
    });
    const kept = (original: Plane, cutoff: number) => [
      ...keepCoverage(original, row(0.25, 0.75), cutoff).values,
    ];
    for (const [original, cutoff] of [
      [row(0, 0.25, 0, 0), 0.5],
      [row(1, 0.5, 1, 0.75), 0.5],
      [row(1, 0, 1, 0), 0],
    ] as const)
      expect(kept(original, cutoff)).toEqual([0.25, 0.75]);
    // Three quarters there, half there: scaled, and never beyond 1.
    const [low, high] = kept(row(1, 1, 1, 1, 1, 0), 0.5);
    expect(low).toBeGreaterThanOrEqual(0.5);
    expect(high).toBe(1);
  });
});

describe('heights', () => {
  const input = (value: number, mid: number) => ({
    value,
    map: createMapUse('h.png', 'height', { offset: mid === 0 ? 0 : -mid }),
  });
  const moved = ({ amount, mid }: { amount: number; mid: number }, stored: number) => amount * (stored - mid);

  it('move the surface as before on another mid level', () => {
    for (const [from, to] of [
      [0, 0.5],
      [0.5, 0.5],
      [0.3, 0.5],
    ] as const) {
      const written = writtenHeight(input(4, from), { heightMid: to, format: 'fbx' });
      for (const stored of [0, 0.25, 0.8, 1]) {
        const now = written.gain * stored + written.offset;
        expect(now).toBeGreaterThanOrEqual(-1e-9);
        expect(now).toBeLessThanOrEqual(1 + 1e-9);
        expect(moved(written, now)).toBeCloseTo(4 * (stored - from), 9);
      }
      expect(written.cut).toBe(false);
    }
  });

  it('lose what lies below the middle where that is black', () => {
    const written = writtenHeight(input(4, 0.5), { heightMid: 0, format: 'fbx' });
    expect(written).toMatchObject({ mid: 0, cut: true });
    expect(moved(written, written.gain * 1 + written.offset)).toBeCloseTo(2, 9);
    expect(writtenHeight(input(4, 0.5), { heightMid: null, format: 'fbx' })).toMatchObject({
      amount: 4,
      mid: 0.5,
      gain: 1,
      offset: 0,
    });
  });
});

describe('what is left behind', () => {
  it('is told once where it is true of many', () => {
    const lines = [
      'OBJ has no motion',
      ...['Oak', 'Pine', 'Slate', 'Rope', 'Zinc'].map((name) => `${name}: the map of normal has no place`),
      'Oak: the image of bump is missing',
    ];
    expect(groupedLines(lines)).toEqual([
      'OBJ has no motion',
      'the map of normal has no place: Oak, Pine, Slate, Rope and 1 more',
      'Oak: the image of bump is missing',
    ]);
  });
});
