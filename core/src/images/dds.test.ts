import { describe, expect, it } from 'vitest';
import { decodeOutside, put, randomBytes } from '../test/tools.ts';
import { type DdsHeader, ddsBytes, ddsHeader, decodeDds } from './dds.ts';

const SIZE = [256, 64] as const;

/** A DDS file of random blocks: every bit pattern is a valid block, so all modes and partitions occur. */
function blockFile(kind: string | number, bytesPerBlock: number, seed: number): Uint8Array {
  const blocks = randomBytes((SIZE[0] / 4) * (SIZE[1] / 4) * bytesPerBlock, seed);
  const dx10 = typeof kind === 'number';
  const head = new DataView(new ArrayBuffer(dx10 ? 148 : 128));
  const text = (offset: number, value: string) =>
    [...value].forEach((letter, i) => head.setUint8(offset + i, letter.charCodeAt(0)));
  text(0, 'DDS ');
  [124, 0x81007, SIZE[1], SIZE[0], blocks.length, 0, 1].forEach((value, i) =>
    head.setUint32(4 + i * 4, value, true),
  );
  head.setUint32(76, 32, true);
  head.setUint32(80, 4, true);
  text(84, dx10 ? 'DX10' : kind);
  head.setUint32(108, 0x1000, true);
  if (dx10) [kind, 3, 0, 1, 0].forEach((value, i) => head.setUint32(128 + i * 4, value, true));
  return new Uint8Array([...new Uint8Array(head.buffer), ...blocks]);
}

describe('DDS', () => {
  it.each([
    ['DXT1', 8, 'R,G,B', 3, 2],
    ['DXT5', 16, 'R,G,B', 3, 2],
    ['DXT5', 16, 'A,A,A', 1, 1],
    [80, 8, '0,0,0', 1, 1],
    [83, 16, '0,1,1', 2, 1],
    [98, 16, 'R,G,B', 3, 0],
    [98, 16, 'A,A,A', 1, 0],
  ] as const)('decodes %s blocks as another reader does', (kind, bytes, channels, compared, tolerance) => {
    const file = blockFile(kind, bytes, 7);
    const ours = decodeDds(file, 'a.dds');
    const theirs = decodeOutside(put('blocks.dds', file), channels);
    expect([ours.width, ours.height]).toEqual([...SIZE]);
    const first = channels.startsWith('A') ? 3 : 0;
    let worst = 0;
    for (let i = 0; i < SIZE[0] * SIZE[1]; i += 1) {
      for (let k = 0; k < compared; k += 1)
        worst = Math.max(worst, Math.abs(ours.data[i * ours.components + first + k] - theirs[i * 3 + k]));
    }
    expect(worst).toBeLessThanOrEqual(tolerance);
  });

  it.each([95, 96])('decodes float blocks of format %i as another reader does', (kind) => {
    const file = blockFile(kind, 16, 11);
    const ours = decodeDds(file, 'a.dds').data;
    const theirs = decodeOutside(put('blocks.dds', file), 'R,G,B', true);
    let wrong = 0;
    for (let i = 0; i < ours.length; i += 1)
      if (!(ours[i] === theirs[i] || Math.abs(ours[i] - theirs[i]) < 1e-3 || Number.isNaN(ours[i])))
        wrong += 1;
    expect(wrong).toBe(0);
  });

  it('names a cut file', () => {
    const file = blockFile('DXT1', 8, 1);
    expect(() => decodeDds(file.subarray(0, 400), 'cut.dds')).toThrow(/cut off/);
    expect(() => decodeDds(file.subarray(0, 60), 'cut.dds')).toThrow(/cut off/);
  });

  it.each([
    ['5-6-5', 16, 0x40, [0xf800, 0x07e0, 0x001f, 0], [0xf8, 0x47], [66, 255, 197], 3],
    ['1-5-5-5', 16, 0x41, [0x7c00, 0x03e0, 0x001f, 0x8000], [0x1f, 0x80], [0, 0, 255, 255], 4],
    ['4-4-4-4', 16, 0x41, [0x0f00, 0x00f0, 0x000f, 0xf000], [0x31, 0xf2], [34, 51, 17, 255], 4],
    ['8-8-8 from blue up', 24, 0x40, [0xff0000, 0xff00, 0xff, 0], [3, 2, 1], [1, 2, 3], 3],
    ['8-8-8 and nothing', 32, 0x40, [0xff0000, 0xff00, 0xff, 0xff000000], [3, 2, 1, 9], [1, 2, 3], 3],
    [
      '8-8-8-8 from blue up',
      32,
      0x41,
      [0xff0000, 0xff00, 0xff, 0xff000000],
      [3, 2, 1, 200],
      [1, 2, 3, 200],
      4,
    ],
    [
      '8-8-8-8 from red up',
      32,
      0x41,
      [0xff, 0xff00, 0xff0000, 0xff000000],
      [1, 2, 3, 200],
      [1, 2, 3, 200],
      4,
    ],
    [
      '2-10-10-10',
      32,
      0x41,
      [0x3ff00000, 0xffc00, 0x3ff, 0xc0000000],
      [0xff, 0x03, 0, 0x40],
      [0, 0, 255, 85],
      4,
    ],
    ['grey', 8, 0x20000, [0xff, 0, 0, 0], [77], [77], 1],
    ['grey with alpha', 16, 0x20001, [0xff, 0, 0, 0xff00], [77, 88], [77, 88], 2],
    ['red alone', 8, 0x40, [0xff, 0, 0, 0], [77], [77], 1],
  ] as const)('reads pixels of %s by their masks', (_, bits, flags, masks, pixel, expected, components) => {
    const file = plainFile({ flags, bits, masks, pixels: [...pixel, ...pixel] });
    expectPair(file, { components, bitDepth: 8, floating: false }, expected);
  });

  it.each([
    [28, 4, 8, [1, 2, 3, 4], [1, 2, 3, 4]],
    [87, 4, 8, [3, 2, 1, 4], [1, 2, 3, 4]],
    [49, 2, 8, [5, 6], [5, 6]],
    [61, 1, 8, [7], [7]],
    [56, 1, 16, [0x34, 0x12], [0x1234]],
    [35, 2, 16, [0x34, 0x12, 0xff, 0xff], [0x1234, 0xffff]],
    // 1, 0.5, -2 and 0 as halves.
    [10, 4, 16, [0, 0x3c, 0, 0x38, 0, 0xc0, 0, 0], [1, 0.5, -2, 0]],
    [34, 2, 16, [0, 0x3c, 0, 0x38], [1, 0.5]],
    // 1 and -0.25 as floats.
    [41, 1, 32, [0, 0, 0x80, 0x3f], [1]],
    [16, 2, 32, [0, 0, 0x80, 0x3f, 0, 0, 0x80, 0xbe], [1, -0.25]],
    ['d3d 36', 4, 16, [1, 0, 2, 0, 3, 0, 0xff, 0xff], [1, 2, 3, 0xffff]],
    ['d3d 111', 1, 16, [0, 0x3c], [1]],
    ['d3d 114', 1, 32, [0, 0, 0x80, 0xbe], [-0.25]],
  ] as const)('reads numbers of format %s', (kind, components, bits, pixel, expected) => {
    const dxgi = typeof kind === 'number';
    const code = dxgi ? 0x30315844 : Number(kind.slice(4));
    const file = plainFile({ flags: 4, code, dxgi: dxgi ? kind : null, pixels: [...pixel, ...pixel] });
    const floating = [10, 34, 41, 16, 'd3d 111', 'd3d 114'].includes(kind);
    expectPair(file, { components, bitDepth: bits, floating }, expected);
  });

  it('names what it does not read', () => {
    const codeOf = (file: Uint8Array) => {
      try {
        return ddsHeader(file, 'a.dds');
      } catch (error) {
        return (error as { code: string }).code;
      }
    };
    expect(codeOf(plainFile({ flags: 4, code: 0x30315844, dxgi: 60, pixels: [] }))).toBe('image.format');
    expect(codeOf(plainFile({ flags: 4, code: 0x59565955, pixels: [] }))).toBe('image.format');
    expect(codeOf(plainFile({ flags: 0x40, bits: 12, pixels: [] }))).toBe('image.broken');
    expect(codeOf(plainFile({ flags: 4, code: 0x30315844, dxgi: 28, pixels: [] }).subarray(0, 140))).toBe(
      'image.broken',
    );
  });
});

/** Two pixels beside each other, both as expected, with no byte to spare. */
function expectPair(file: Uint8Array, header: Partial<DdsHeader>, expected: readonly number[]): void {
  expect(ddsHeader(file, 'a.dds')).toMatchObject({ width: 2, height: 1, ...header });
  expect([...decodeDds(file, 'a.dds').data]).toEqual([...expected, ...expected]);
  expect(ddsBytes(file)).toBe(file.length);
  expect(() => decodeDds(file.subarray(0, file.length - 1), 'a.dds')).toThrow(/cut off/);
}

/** What the header of a picture of two pixels side by side states of them. */
interface Plain {
  flags: number;
  code?: number;
  bits?: number;
  masks?: readonly number[];
  dxgi?: number | null;
  pixels: number[];
}

function plainFile({
  flags,
  code = 0,
  bits = 0,
  masks = [0, 0, 0, 0],
  dxgi = null,
  pixels,
}: Plain): Uint8Array {
  const head = new DataView(new ArrayBuffer(dxgi === null ? 128 : 148));
  [0x20534444, 124, 0x1007, 1, 2].forEach((value, i) => head.setUint32(i * 4, value, true));
  [32, flags, code, bits, ...masks].forEach((value, i) => head.setUint32(76 + i * 4, value, true));
  if (dxgi !== null) head.setUint32(128, dxgi, true);
  return new Uint8Array([...new Uint8Array(head.buffer), ...pixels]);
}
