import { describe, expect, it } from 'vitest';
import { decodeImage } from './decode.ts';
import { probeImage } from './probe.ts';

const [WIDTH, HEIGHT] = [6, 4];
type Pixel = readonly [red: number, green: number, blue: number, alpha: number];
/** Top row first; two pixels of each row are alike, so that there are runs. */
const PIXELS = Array.from({ length: HEIGHT }, (_, y) =>
  Array.from({ length: WIDTH }, (_, x): Pixel => {
    const i = Math.min(x, 4) * 5 + y * 31;
    return [(i * 7) % 256, 255 - (i % 256), (i * 13) % 256, (i * 3) % 256];
  }),
);
const PALETTE = Array.from(
  { length: 20 },
  (_, i): Pixel => [i * 12, 255 - i * 9, (i * 37) % 256, 40 + i * 10],
);
const INDICES = PIXELS.map((row, y) => row.map((_, x) => (Math.min(x, 4) * 3 + y * 5) % PALETTE.length));

/** A pixel as the format stores it, by its bits. */
function stored([r, g, b, a]: Pixel, bits: number): number[] {
  const five = ((r >> 3) << 10) | ((g >> 3) << 5) | (b >> 3);
  if (bits < 24) return [five & 255, five >> 8];
  return bits === 24 ? [b, g, r] : [b, g, r, a];
}

/** What a reader gets of it. */
function read(pixel: Pixel, bits: number): number[] {
  if (bits < 24) return pixel.slice(0, 3).map((value) => Math.round(((value >> 3) * 255) / 31));
  return pixel.slice(0, bits / 8);
}

interface Tga {
  kind: number;
  bits: number;
  /** Pixels as bytes, rows from the top. */
  rows: number[][][];
  /** Bit 5: rows from the top; bit 4: columns from the right. */
  corner: number;
  map?: { first: number; bits: number; bytes: number[] };
  id?: number[];
}

/** A TGA file as its format says, with nothing of ours in it; packed where the kind has bit 3. */
function tga({ kind, bits, rows, corner, map, id = [] }: Tga): Uint8Array {
  const ordered = corner & 0x20 ? rows : [...rows].reverse();
  const pixels = ordered.flatMap((row) => (corner & 0x10 ? [...row].reverse() : row));
  const body: number[] = [];
  for (let i = 0; i < pixels.length; ) {
    let end = i + 1;
    if (kind & 8)
      while (end < pixels.length && end - i < 128 && `${pixels[end]}` === `${pixels[i]}`) end += 1;
    if (kind & 8) body.push(end - i > 1 ? 128 + end - i - 1 : 0);
    body.push(...pixels[i]);
    i = end;
  }
  const [count, entry] = map ? [map.bytes.length / Math.ceil(map.bits / 8), map.bits] : [0, 0];
  const head = [
    id.length,
    map ? 1 : 0,
    kind,
    map?.first ?? 0,
    0,
    count,
    0,
    entry,
    0,
    0,
    0,
    0,
    WIDTH,
    0,
    HEIGHT,
    0,
    bits,
    corner,
  ];
  return Uint8Array.from([...head, ...id, ...(map?.bytes ?? []), ...body]);
}

async function decoded(of: Tga): Promise<number[]> {
  const bytes = tga(of);
  const { components, data, width, height } = await decodeImage(bytes, 'quay.tga');
  expect([width, height]).toEqual([WIDTH, HEIGHT]);
  expect(await probeImage(bytes, 'quay.tga')).toMatchObject({ width: WIDTH, height: HEIGHT, components });
  return [...data];
}

describe.each([0, 0x10, 0x20, 0x30])('TGA from corner %i', (corner) => {
  it.each([16, 24, 32])('has colours of %i bits, packed or not', async (bits) => {
    const rows = PIXELS.map((row) => row.map((pixel) => stored(pixel, bits)));
    const expected = PIXELS.flat().flatMap((pixel) => read(pixel, bits));
    for (const kind of [2, 10])
      expect(await decoded({ kind, bits, rows, corner, id: kind === 10 ? [113, 117] : [] })).toEqual(
        expected,
      );
  });

  it('has greys of 8 bits, and of 16 with alpha', async () => {
    const greys = PIXELS.map((row) => row.map(([r]) => [r]));
    for (const kind of [3, 11])
      expect(await decoded({ kind, bits: 8, rows: greys, corner })).toEqual(greys.flat(2));
    const pairs = PIXELS.map((row) => row.map(([r, , , a]) => [r, a]));
    expect(await decoded({ kind: 3, bits: 16, rows: pairs, corner })).toEqual(pairs.flat(2));
  });

  it.each([15, 16, 24, 32])(
    'has palettes of %i bits, the first index of which may be another',
    async (bits) => {
      const bytes = PALETTE.flatMap((pixel) => stored(pixel, bits));
      const expected = INDICES.flat().flatMap((i) => read(PALETTE[i], bits));
      for (const [kind, first] of [
        [1, 0],
        [9, 0],
        [1, 5],
      ]) {
        const rows = INDICES.map((row) => row.map((i) => [i + first]));
        expect(await decoded({ kind, bits: 8, rows, corner, map: { first, bits, bytes } })).toEqual(expected);
      }
    },
  );
});

it('TGA of colours may carry a palette that nothing reads, and is refused where it ends early', async () => {
  const rows = PIXELS.map((row) => row.map((pixel) => stored(pixel, 24)));
  const expected = PIXELS.flat().flatMap((pixel) => read(pixel, 24));
  const map = { first: 0, bits: 24, bytes: [1, 2, 3, 4, 5, 6] };
  expect(await decoded({ kind: 2, bits: 24, rows, corner: 0, map })).toEqual(expected);
  for (const kind of [2, 10])
    await expect(
      decodeImage(tga({ kind, bits: 24, rows, corner: 0 }).slice(0, -4), 'quay.tga'),
    ).rejects.toMatchObject({
      code: expect.stringMatching(/^image\.(cut|broken)$/),
    });
});
