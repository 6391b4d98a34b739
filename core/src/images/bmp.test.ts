import { describe, expect, it } from 'vitest';
import { decodeImage } from './decode.ts';
import { probeImage } from './probe.ts';

const [WIDTH, HEIGHT] = [7, 3];
type Rgb = readonly [number, number, number];
/** Sixteen colours, no two alike. */
const PALETTE = Array.from({ length: 16 }, (_, i): Rgb => [i * 16, 255 - i * 9, (i * 37) % 256]);
/** Row by row from the top, no two rows alike. */
const INDICES = Array.from({ length: HEIGHT }, (_, y) =>
  Array.from({ length: WIDTH }, (_, x) => (x * 3 + y * 5 + 1) % 16),
);

interface Bmp {
  bits: number;
  /** Rows as bytes, without what fills them up; or all bytes where they are packed. */
  rows: number[][] | number[];
  compression?: number;
  palette?: readonly Rgb[];
  masks?: number[];
  topDown?: boolean;
  /** Length of the header; 12 is that of OS/2. */
  header?: number;
}

/** A BMP file as its format says, with nothing of ours in it. */
function bmp({
  bits,
  rows,
  compression = 0,
  palette = [],
  masks = [],
  topDown = false,
  header = 40,
}: Bmp): Uint8Array {
  const packed = typeof rows[0] === 'number';
  const lines = packed ? [rows as number[]] : (rows as number[][]);
  const ordered = packed || topDown ? lines : [...lines].reverse();
  const pixels = ordered.flatMap((row) =>
    packed ? row : [...row, ...Array((4 - (row.length % 4)) % 4).fill(0)],
  );
  const colours = palette.flatMap(([r, g, b]) => (header === 12 ? [b, g, r] : [b, g, r, 0]));
  const behind = header === 40 ? masks : [];
  const start = 14 + header + behind.length * 4 + colours.length;
  const out = new Uint8Array(start + pixels.length);
  const view = new DataView(out.buffer);
  out.set([0x42, 0x4d]);
  view.setUint32(2, out.length, true);
  view.setUint32(10, start, true);
  view.setUint32(14, header, true);
  if (header === 12) {
    [WIDTH, HEIGHT, 1, bits].forEach((value, i) => view.setUint16(18 + i * 2, value, true));
  } else {
    view.setInt32(18, WIDTH, true);
    view.setInt32(22, topDown ? -HEIGHT : HEIGHT, true);
    view.setUint16(26, 1, true);
    view.setUint16(28, bits, true);
    view.setUint32(30, compression, true);
    view.setUint32(46, palette.length, true);
  }
  masks.forEach((mask, i) => view.setUint32(54 + i * 4, mask, true));
  out.set(colours, 14 + header + behind.length * 4);
  out.set(pixels, start);
  return out;
}

const decoded = async (of: Bmp) => {
  const bytes = bmp(of);
  const { components, data, width, height } = await decodeImage(bytes, 'quay.bmp');
  expect([width, height]).toEqual([WIDTH, HEIGHT]);
  expect(await probeImage(bytes, 'quay.bmp')).toMatchObject({
    format: 'bmp',
    width: WIDTH,
    height: HEIGHT,
    bitDepth: 8,
  });
  return { components, data: [...data] };
};
const bytesOf = (value: number, size: number) =>
  Array.from({ length: size }, (_, k) => Math.floor(value / 256 ** k) % 256);
const packedBits = (row: readonly number[], bits: number) =>
  Array.from({ length: Math.ceil((row.length * bits) / 8) }, (_, i) => {
    let byte = 0;
    for (let k = 0; k < 8 / bits; k += 1) byte = byte * 2 ** bits + (row[(i * 8) / bits + k] ?? 0);
    return byte;
  });
const coloured = (indices: readonly (readonly number[])[]) =>
  indices.flatMap((row) => row.flatMap((i) => PALETTE[i]));

describe('BMP of a palette', () => {
  it.each([1, 2, 4, 8])('has %i bits a pixel, rows from the bottom or from the top', async (bits) => {
    const count = Math.min(16, 2 ** bits);
    const indices = INDICES.map((row) => row.map((i) => i % count));
    const rows = indices.map((row) => packedBits(row, bits));
    const palette = PALETTE.slice(0, count);
    for (const more of [{}, { topDown: true }, { header: 12 }, { header: 124 }])
      expect(await decoded({ bits, rows, palette, ...more })).toEqual({
        components: 3,
        data: coloured(indices),
      });
  });

  it('takes its last colour for an index beyond it', async () => {
    const rows = INDICES.map((row) => row.map(() => 200));
    const { data } = await decoded({ bits: 8, rows, palette: PALETTE });
    expect(data.slice(0, 3)).toEqual(PALETTE[15]);
  });

  it('of 8 bits is run-length coded: runs, stretches, moves and ends', async () => {
    // From the bottom row up: a run of 4 and a stretch of 3; a move by two and one row; a run in the top row.
    const rows = [4, 3, 0, 3, 7, 8, 9, 0, 0, 0, 0, 2, 2, 1, 5, 6, 0, 1];
    const { data } = await decoded({ bits: 8, rows, compression: 1, palette: PALETTE });
    const expected = [[0, 0, 6, 6, 6, 6, 6], Array(7).fill(0), [3, 3, 3, 3, 7, 8, 9]];
    expect(data).toEqual(coloured(expected));
  });

  it('of 4 bits is run-length coded, two indices by turns', async () => {
    const rows = [5, 0x3a, 0, 0, 0, 6, 0x12, 0x34, 0x56, 0, 1, 0x70, 0, 0, 7, 0xbc, 0, 0, 0, 1];
    const { data } = await decoded({ bits: 4, rows, compression: 2, palette: PALETTE });
    const expected = [
      [11, 12, 11, 12, 11, 12, 11],
      [1, 2, 3, 4, 5, 6, 7],
      [3, 10, 3, 10, 3, 0, 0],
    ];
    expect(data).toEqual(coloured(expected));
  });
});

describe('BMP of colours', () => {
  const colours = INDICES.map((row) => row.map((i) => PALETTE[i]));
  const exact = { components: 3, data: colours.flat(2) };

  it('has 24 bits as blue, green, red', async () => {
    const rows = colours.map((row) => row.flatMap(([r, g, b]) => [b, g, r]));
    for (const more of [{}, { topDown: true }, { header: 12 }, { header: 108 }])
      expect(await decoded({ bits: 24, rows, ...more })).toEqual(exact);
  });

  it('has an alpha in 32 bits where it is not 0 all over', async () => {
    const rows = (alpha: number) => colours.map((row) => row.flatMap(([r, g, b]) => [b, g, r, alpha]));
    expect(await decoded({ bits: 32, rows: rows(0) })).toEqual(exact);
    const data = colours.flat().flatMap((colour) => [...colour, 90]);
    expect(await decoded({ bits: 32, rows: rows(90) })).toEqual({ components: 4, data });
  });

  it('spreads 5 and 6 bits over the whole range, by the masks that it states', async () => {
    const rows = (pack: (colour: Rgb) => number, size: number) =>
      colours.map((row) => row.flatMap((colour) => bytesOf(pack(colour), size)));
    const five = (value: number) => Math.round(((value >> 3) * 255) / 31);
    const plain = rows(([r, g, b]) => ((r >> 3) << 10) | ((g >> 3) << 5) | (b >> 3), 2);
    expect((await decoded({ bits: 16, rows: plain })).data).toEqual(colours.flat(2).map(five));
    const wide = rows(([r, g, b]) => ((r >> 3) << 11) | ((g >> 2) << 5) | (b >> 3), 2);
    const masks = [0xf800, 0x7e0, 0x1f];
    const expected = colours
      .flat()
      .flatMap(([r, g, b]) => [five(r), Math.round(((g >> 2) * 255) / 63), five(b)]);
    expect((await decoded({ bits: 16, rows: wide, compression: 3, masks })).data).toEqual(expected);
    // Other places for the bytes, with an alpha of one bit above.
    const turned = rows(([r, g, b]) => r * 2 ** 16 + g * 2 ** 8 + b + 2 ** 31, 4);
    const alpha = [0xff0000, 0xff00, 0xff, 0x80000000];
    const clear = { components: 4, data: colours.flat().flatMap((colour) => [...colour, 255]) };
    expect(await decoded({ bits: 32, rows: turned, compression: 6, masks: alpha })).toEqual(clear);
    expect(await decoded({ bits: 32, rows: turned, compression: 3, masks: alpha, header: 124 })).toEqual(
      clear,
    );
  });
});

describe('what is no BMP', () => {
  const rows = INDICES;
  it.each<[string, Uint8Array, string, RegExp]>([
    ['cut in its header', bmp({ bits: 8, rows, palette: PALETTE }).slice(0, 40), 'image.cut', /cut off/],
    ['of odd bits', bmp({ bits: 7, rows, palette: PALETTE }), 'image.broken', /7 bits/],
    ['of a JPEG', bmp({ bits: 24, rows, compression: 4 }), 'image.format', /another type/],
  ])('is refused in words: %s', async (_, bytes, code, message) => {
    await expect(decodeImage(bytes, 'quay.bmp')).rejects.toMatchObject({
      code,
      message: expect.stringMatching(message),
    });
  });
});
