import { deflateSync } from 'node:zlib';
import { createDefaultContainer, write } from 'ktx-parse';
import { describe, expect, it } from 'vitest';
import { shortfallOf } from './cut.ts';
import { decodeKtx2, ktx2Header } from './ktx2.ts';

/** A file of two pixels side by side as another library writes it. */
function plainFile(vkFormat: number, pixels: readonly number[], packed = false): Uint8Array {
  const container = createDefaultContainer();
  container.vkFormat = vkFormat as typeof container.vkFormat;
  [container.pixelWidth, container.pixelHeight] = [2, 1];
  const raw = Uint8Array.from(pixels);
  container.supercompressionScheme = packed ? 3 : 0;
  container.levels = [
    { levelData: packed ? new Uint8Array(deflateSync(raw)) : raw, uncompressedByteLength: raw.length },
  ];
  return write(container, { keepWriter: true });
}

describe('KTX2 of plain numbers', () => {
  it.each([
    [9, 1, 8, [7], [7]],
    [16, 2, 8, [5, 6], [5, 6]],
    [23, 3, 8, [1, 2, 3], [1, 2, 3]],
    [30, 3, 8, [3, 2, 1], [1, 2, 3]],
    [43, 4, 8, [1, 2, 3, 4], [1, 2, 3, 4]],
    [44, 4, 8, [3, 2, 1, 4], [1, 2, 3, 4]],
    [70, 1, 16, [0x34, 0x12], [0x1234]],
    [84, 3, 16, [1, 0, 2, 0, 0, 3], [1, 2, 0x300]],
    // 0.5, -2 and 1.5 as halves.
    [76, 1, 16, [0, 0x38], [0.5]],
    [90, 3, 16, [0, 0x38, 0, 0xc0, 0, 0x3e], [0.5, -2, 1.5]],
    // -0.25 and 1.5 as floats.
    [100, 1, 32, [0, 0, 0x80, 0xbe], [-0.25]],
    [103, 2, 32, [0, 0, 0x80, 0xbe, 0, 0, 0xc0, 0x3f], [-0.25, 1.5]],
  ] as const)(
    'of Vulkan format %i, packed or not',
    async (vkFormat, components, bitDepth, pixel, expected) => {
      const pixels = [...pixel, ...pixel];
      for (const packed of [false, true]) {
        const file = plainFile(vkFormat, pixels, packed);
        const floating = bitDepth === 32 || [76, 90].includes(vkFormat);
        expect(ktx2Header(file, 'a.ktx2')).toEqual({ width: 2, height: 1, components, bitDepth, floating });
        const decoded = await decodeKtx2(file, 'a.ktx2');
        expect([decoded.components, [...decoded.data]]).toEqual([components, [...expected, ...expected]]);
        expect(shortfallOf('ktx2', file)).toBeNull();
      }
    },
  );

  it('of block formats have the components of these', () => {
    const of = (vkFormat: number) => ktx2Header(plainFile(vkFormat, new Array(16).fill(0)), 'a.ktx2');
    expect(of(137)).toEqual({ width: 2, height: 1, components: 4, bitDepth: 8, floating: false });
    expect(of(141)).toMatchObject({ components: 2, bitDepth: 8, floating: false });
    expect(of(143)).toMatchObject({ components: 3, bitDepth: 16, floating: true });
  });

  it('is refused in words where it is short, damaged or of a kind that is not read', async () => {
    const codeOf = async (file: Uint8Array) =>
      decodeKtx2(file, 'a.ktx2').then(
        () => null,
        (error) => error.code,
      );
    expect(await codeOf(plainFile(43, [1, 2, 3, 4, 5, 6, 7]))).toBe('image.broken');
    expect(await codeOf(plainFile(137, [1, 2, 3, 4, 5, 6, 7]))).toBe('image.broken');
    expect(await codeOf(plainFile(43, [1, 2, 3, 4, 5, 6, 7, 8]))).toBeNull();
    expect(await codeOf(plainFile(157, [1]))).toBe('image.format');
    expect(await codeOf(new Uint8Array(90))).toBe('image.broken');
  });
});
