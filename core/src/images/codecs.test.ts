import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { writePsdUint8Array } from 'ag-psd';
import { createDefaultContainer, KHR_SUPERCOMPRESSION_NONE, write as writeKtx2 } from 'ktx-parse';
import { encodeToKTX2 } from 'ktx2-encoder';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { DEFAULT_LIMITS } from '../parcel/limits.ts';
import { decodeOutside, oiiotool, put, randomBytes, scratch } from '../test/tools.ts';
import { decodeImage } from './decode.ts';
import { type EncodableFormat, encodeImage } from './encode.ts';
import { isImagePath } from './format.ts';
import type { PixelBuffer } from './pixelBuffer.ts';
import { probeImage } from './probe.ts';

const [WIDTH, HEIGHT] = [19, 11];

/** Smooth ramps with some noise: no two rows or columns alike. */
function picture(components: number, kind: 8 | 16 | 32): PixelBuffer {
  const noise = randomBytes(WIDTH * HEIGHT * components, components + kind);
  const ramp = (i: number) => ((i * 37) % 200) / 255 + noise[i] / 2550;
  const make = (i: number) => {
    if (kind === 8) return Math.round(ramp(i) * 255);
    return kind === 16 ? Math.round(ramp(i) * 65535) : ramp(i) * 4;
  };
  const length = WIDTH * HEIGHT * components;
  const data =
    kind === 8 ? new Uint8Array(length) : kind === 16 ? new Uint16Array(length) : new Float32Array(length);
  for (let i = 0; i < length; i += 1) data[i] = make(i);
  return { width: WIDTH, height: HEIGHT, components, data };
}

function expectClose(found: PixelBuffer, expected: PixelBuffer, tolerance: number): void {
  expect([found.width, found.height, found.components]).toEqual([
    expected.width,
    expected.height,
    expected.components,
  ]);
  for (let i = 0; i < expected.data.length; i += 1) {
    const off = Math.abs(found.data[i] - expected.data[i]);
    if (!(off <= tolerance * Math.max(1, Math.abs(expected.data[i]))))
      throw new Error(`number ${i}: ${found.data[i]} is not ${expected.data[i]}`);
  }
}

const EXTENSION: Record<EncodableFormat, string> = {
  png: 'png',
  jpeg: 'jpg',
  tiff: 'tif',
  tga: 'tga',
  exr: 'exr',
  hdr: 'hdr',
  webp: 'webp',
};

describe('what is written comes back', () => {
  it.each([
    ['png', 1, 8, 0],
    ['png', 3, 8, 0],
    ['png', 4, 16, 0],
    ['png', 1, 16, 0],
    ['tiff', 3, 8, 0],
    ['tiff', 3, 16, 0],
    ['tiff', 1, 32, 0],
    ['tiff', 3, 32, 0],
    ['tga', 1, 8, 0],
    ['tga', 3, 8, 0],
    ['tga', 4, 8, 0],
    ['webp', 3, 8, 0],
    ['webp', 4, 8, 0],
    ['jpeg', 3, 8, 1],
  ] as const)('%s of %i components, %i bits', async (format, components, bits, tolerance) => {
    const source = picture(components, bits);
    const bytes = await encodeImage(source, format);
    const info = await probeImage(bytes, `a.${EXTENSION[format]}`);
    expect(info).toMatchObject({
      format,
      width: WIDTH,
      height: HEIGHT,
      bitDepth: bits,
      floating: bits === 32,
      components,
    });
    expectClose(await decodeImage(bytes, `a.${EXTENSION[format]}`), source, tolerance);
    expect(await encodeImage(source, format)).toEqual(bytes);
  });

  it.each([16, 32] as const)('exr of %i bits, with alpha', async (depth) => {
    const source = picture(4, 32);
    const bytes = await encodeImage(source, 'exr', { depth });
    expect(await probeImage(bytes, 'a.exr')).toMatchObject({
      bitDepth: depth,
      floating: true,
      components: 4,
      layers: [''],
    });
    expectClose(await decodeImage(bytes, 'a.exr'), source, depth === 32 ? 0 : 2 ** -10);
  });

  it('hdr keeps eight bits of each pixel', async () => {
    const source = picture(3, 32);
    expectClose(await decodeImage(await encodeImage(source, 'hdr'), 'a.hdr'), source, 0.02);
  });

  it.each(['png', 'jpeg', 'webp', 'tga'] as const)('refuses floats in %s', async (format) => {
    await expect(encodeImage(picture(3, 32), format)).rejects.toMatchObject({ code: 'image.encode' });
  });
});

describe('what others write is read', () => {
  it('in AVIF and GIF, and tiled with its smaller copies', async () => {
    // Few colours, so that none of them is lost to a palette.
    const [colours, size] = [[250, 10, 20, 0, 200, 90, 128, 128, 255, 40, 40, 40], 32];
    const data = Uint8Array.from({ length: size * size * 3 }, (_, i) => {
      const pixel = Math.floor(i / 3);
      const tile = (Math.floor(pixel / size / 16) % 2) * 2 + (Math.floor((pixel % size) / 16) % 2);
      return colours[tile * 3 + (i % 3)];
    });
    const plain = put(
      'few.png',
      await encodeImage({ width: size, height: size, components: 3, data }, 'png'),
    );
    for (const [name, tolerance] of [
      ['few.avif', 6],
      ['few.gif', 0],
      ['few.tx', 0],
    ] as const) {
      oiiotool(plain, name === 'few.tx' ? '-otex' : '-o', `${scratch}/${name}`);
      const bytes = new Uint8Array(readFileSync(`${scratch}/${name}`));
      const info = await probeImage(bytes, name);
      expect([isImagePath(name), info.width, info.height, info.bitDepth], name).toEqual([
        true,
        size,
        size,
        8,
      ]);
      const decoded = await decodeImage(bytes, name);
      // Colours bleed over edges where a writer keeps fewer of them.
      for (const [x, y] of [
        [5, 5],
        [26, 5],
        [5, 26],
        [26, 26],
      ])
        for (let k = 0; k < 3; k += 1) {
          const found = decoded.data[(y * size + x) * decoded.components + k];
          expect(Math.abs(found - data[(y * size + x) * 3 + k]), name).toBeLessThanOrEqual(tolerance);
        }
    }
  });

  it('in AVIF without loss, with alpha, and no other file of boxes', async () => {
    const { data, width, height, components } = picture(4, 8);
    const bytes = await sharp(data, { raw: { width, height, channels: components as 4 } })
      .avif({ lossless: true })
      .toBuffer();
    expect(await probeImage(bytes, 'a.png')).toMatchObject({ format: 'avif', width, height, components: 4 });
    const decoded = await decodeImage(bytes, 'a.avif');
    for (let i = 3; i < data.length; i += 4) expect(decoded.data[i]).toBe(data[i]);
    const other = bytes.slice();
    other.set(new TextEncoder().encode('heic'), 8);
    for (let i = 16; i < other[3]; i += 4) other.set(new TextEncoder().encode('mif1'), i);
    await expect(probeImage(other, 'a.heic')).rejects.toMatchObject({ code: 'image.format' });
  });
});

describe('another reader agrees on what is written', () => {
  it.each([
    ['png', 3, 16],
    ['tiff', 3, 16],
    ['tiff', 3, 32],
    ['tga', 3, 8],
    ['tga', 4, 8],
    ['exr', 3, 32],
    ['hdr', 3, 32],
  ] as const)('%s', async (format, components, bits) => {
    const source = picture(components, bits);
    const written = put(`written.${EXTENSION[format]}`, await encodeImage(source, format, { depth: 32 }));
    // oiiotool prints each component's mean, as a number of the file's own range.
    const stats = oiiotool('--iconfig', 'oiio:UnassociatedAlpha', '1', '--ch', 'R,G,B', '--stats', written);
    const unit = bits === 8 ? 255 : bits === 16 ? 65535 : 1;
    const mean = [0, 1, 2].map((k) => {
      let sum = 0;
      for (let i = 0; i < WIDTH * HEIGHT; i += 1) sum += source.data[i * components + k] / unit;
      return sum / (WIDTH * HEIGHT);
    });
    const found = /Stats Avg:\s+([\d.]+)\s+([\d.]+)\s+([\d.]+)/.exec(stats)?.slice(1).map(Number) ?? [];
    found.forEach((value, k) => expect(value / unit).toBeCloseTo(mean[k], format === 'hdr' ? 1 : 3));
    expect(found.length).toBe(3);
  });
});

/** Numbers of the compressions in the header, by the format's own documents. */
const EXR_CODES: Record<string, number> = {
  none: 0,
  rle: 1,
  zips: 2,
  zip: 3,
  piz: 4,
  pxr24: 5,
  b44: 6,
  b44a: 7,
  dwaa: 8,
  dwab: 9,
};

function exrCompression(bytes: Uint8Array): number {
  const mark = Buffer.from(bytes).indexOf('compression\0compression\0');
  return bytes[mark + 'compression\0compression\0'.length + 4];
}

describe('what others write is read', () => {
  const source = picture(3, 32);
  const float = put('source.exr', new Uint8Array(0));

  const COMPRESSIONS = ['none', 'rle', 'zips', 'zip', 'piz', 'pxr24', 'b44', 'b44a', 'dwaa', 'dwab'];
  const madeFile = (compression: string, depth: string) => join(scratch, `made_${compression}_${depth}.exr`);

  // All in one call, since starting that program takes longer than what it does.
  beforeAll(async () => {
    put('source.exr', await encodeImage(source, 'exr', { depth: 32 }));
    const outputs = ['half', 'float'].flatMap((depth) =>
      COMPRESSIONS.flatMap((compression) => [
        ...['-d', depth, '--compression', compression],
        ...['-o', madeFile(compression, depth)],
      ]),
    );
    oiiotool(float, '--ch', 'R,G,B', ...outputs);
  });

  it.each(COMPRESSIONS)('EXR with %s compression, half and float', async (compression) => {
    for (const depth of ['half', 'float']) {
      const file = madeFile(compression, depth);
      const bytes = new Uint8Array(readFileSync(file));
      expect(exrCompression(bytes)).toBe(EXR_CODES[compression]);
      const lossy = /b44|dwa/.test(compression);
      const info = await probeImage(bytes, file);
      expect([info.components, info.bitDepth]).toEqual([3, depth === 'half' ? 16 : 32]);
      expectClose(await decodeImage(bytes, file), source, lossy ? 0.25 : 2 ** -9);
    }
  });

  it('named layers of EXR, and its chromaticities', async () => {
    const file = join(scratch, 'layers.exr');
    const names = ['diffuse.R,diffuse.G,diffuse.B', 'mask.Y'];
    oiiotool(
      float,
      '--ch',
      'R,G,B',
      '--chnames',
      names[0],
      float,
      '--ch',
      'G',
      '--chnames',
      names[1],
      '--chappend',
      '--attrib:type=float[8]',
      'chromaticities',
      '0.713,0.293,0.165,0.83,0.128,0.044,0.32168,0.33767',
      '-d',
      'float',
      '-o',
      file,
    );
    const bytes = new Uint8Array(readFileSync(file));
    const info = await probeImage(bytes, file);
    expect(info.layers).toEqual(['diffuse', 'mask']);
    expect(info.chromaticities?.[0]).toBeCloseTo(0.713, 4);
    expectClose(await decodeImage(bytes, file), source, 1e-6);
    const mask = await decodeImage(bytes, file, { layer: 'mask' });
    expect(mask.components).toBe(1);
    for (let i = 0; i < WIDTH * HEIGHT; i += 1) expect(mask.data[i]).toBeCloseTo(source.data[i * 3 + 1], 5);
    await expect(decodeImage(bytes, file, { layer: 'sheen' })).rejects.toMatchObject({ code: 'image.layer' });
  });

  it('EXR states the primaries that it is given, and its pixels stay', async () => {
    const tall = { ...source, width: WIDTH * HEIGHT, height: 1 };
    const ap1 = [0.713, 0.293, 0.165, 0.83, 0.128, 0.044, 0.32168, 0.33767];
    for (const [name, buffer, depth] of [
      ['ap1.exr', source, 32],
      ['ap1_row.exr', tall, 16],
      ['ap1_column.exr', { ...source, width: 1, height: WIDTH * HEIGHT }, 32],
    ] as const) {
      const path = put(name, await encodeImage(buffer, 'exr', { depth, primaries: ap1 }));
      const said =
        /chromaticities: ([\d., ]+)/
          .exec(oiiotool('--info', '-v', path))?.[1]
          .split(',')
          .map(Number) ?? [];
      said.forEach((value, i) => expect(value).toBeCloseTo(ap1[i], 5));
      expect(said).toHaveLength(8);
      const outside = decodeOutside(path, 'R,G,B', true);
      expectClose(
        { ...buffer, components: 3, data: Float32Array.from(outside) },
        buffer,
        depth === 32 ? 1e-6 : 1e-3,
      );
    }
  });

  it('BMP', async () => {
    const bytes8 = picture(3, 8);
    const file = join(scratch, 'made.bmp');
    oiiotool(put('source.png', await encodeImage(bytes8, 'png')), '-o', file);
    const bytes = new Uint8Array(readFileSync(file));
    expect(await probeImage(bytes, file)).toMatchObject({
      format: 'bmp',
      width: WIDTH,
      height: HEIGHT,
      components: 3,
      bitDepth: 8,
    });
    expectClose(await decodeImage(bytes, file), bytes8, 0);
  });

  it.each([false, true])('PSD with layers, flattened; large format: %s', async (psb) => {
    const rgba = picture(4, 8);
    for (let i = 3; i < rgba.data.length; i += 4) rgba.data[i] = 255;
    const imageData = { width: WIDTH, height: HEIGHT, data: new Uint8ClampedArray(rgba.data) };
    const bytes = writePsdUint8Array(
      { width: WIDTH, height: HEIGHT, imageData, children: [{ name: 'paint', imageData }] },
      { psb },
    );
    expect(await probeImage(bytes, 'a.psd')).toMatchObject({
      format: 'psd',
      width: WIDTH,
      height: HEIGHT,
      bitDepth: 8,
    });
    const found = await decodeImage(bytes, 'a.psd');
    for (let i = 0; i < WIDTH * HEIGHT; i += 1)
      for (let k = 0; k < 3; k += 1) expect(found.data[i * found.components + k]).toBe(rgba.data[i * 4 + k]);
    await expect(decodeImage(bytes.subarray(0, bytes.length - 300), 'a.psd')).rejects.toMatchObject({
      code: 'image.cut',
    });
  });

  it('KTX2 with plain pixels', async () => {
    const rgba = picture(4, 8);
    const container = createDefaultContainer();
    Object.assign(container, {
      vkFormat: 37,
      pixelWidth: WIDTH,
      pixelHeight: HEIGHT,
      supercompressionScheme: KHR_SUPERCOMPRESSION_NONE,
    });
    container.levels = [
      { levelData: rgba.data as Uint8Array<ArrayBuffer>, uncompressedByteLength: rgba.data.length },
    ];
    const bytes = writeKtx2(container, { keepWriter: true });
    expect(await probeImage(bytes, 'a.ktx2')).toMatchObject({
      format: 'ktx2',
      width: WIDTH,
      height: HEIGHT,
      components: 4,
    });
    expectClose(await decodeImage(bytes, 'a.ktx2'), rgba, 0);
  });

  it.each([
    ['ETC1S', false, false, 12],
    ['UASTC', true, false, 3],
    ['UASTC with Zstandard', true, true, 3],
  ])('KTX2 with Basis Universal as %s', async (_, isUASTC, needSupercompression, tolerance) => {
    // A slope without noise, which every block mode holds closely.
    const [width, height] = [24, 16];
    const data = Uint8Array.from(
      { length: width * height * 4 },
      (_value, i) => [((i >> 2) % width) * 8, Math.floor((i >> 2) / width) * 12, 90, 255][i % 4],
    );
    const bytes = await encodeToKTX2(data, {
      isUASTC,
      needSupercompression,
      qualityLevel: 255,
      generateMipmap: false,
      imageDecoder: async () => ({ width, height, data }),
    });
    expect(await probeImage(bytes, 'a.ktx2')).toMatchObject({ format: 'ktx2', width, height, bitDepth: 8 });
    const found = await decodeImage(bytes, 'a.ktx2');
    expect([found.width, found.height, found.components]).toEqual([width, height, 4]);
    let off = 0;
    for (let i = 0; i < data.length; i += 1) off += Math.abs(found.data[i] - data[i]);
    expect(off / data.length).toBeLessThan(tolerance);
    await expect(decodeImage(bytes.subarray(0, bytes.length >> 1), 'a.ktx2')).rejects.toMatchObject({
      code: 'image.cut',
    });
  });

  it('an embedded profile is named and not applied', async () => {
    const rgb = picture(3, 8);
    const bytes = await sharp(rgb.data, { raw: { width: WIDTH, height: HEIGHT, channels: 3 } })
      .withIccProfile('p3')
      .png()
      .toBuffer();
    expect((await probeImage(bytes, 'a.png')).profile).toMatch(/P3/i);
    expectClose(
      await decodeImage(bytes, 'a.png'),
      await decodeImage(new Uint8Array(await sharp(bytes, { ignoreIcc: true }).png().toBuffer()), 'b.png'),
      0,
    );
  });
});

describe('an image that would take too much memory', () => {
  const big = () =>
    sharp({ create: { width: 64, height: 32, channels: 3, background: '#456' } })
      .toColourspace('rgb16')
      .png()
      .toBuffer();

  it('is refused by name before its pixels are decoded, but may be looked at in small', async () => {
    const bytes = new Uint8Array(await big());
    const needed = 64 * 32 * 3 * 2;
    const limits = { ...DEFAULT_LIMITS, imageBytes: needed - 1 };
    await expect(decodeImage(bytes, 'wall.png', { limits })).rejects.toMatchObject({
      code: 'limit.imageBytes',
      place: { file: 'wall.png' },
    });
    await expect(decodeImage(bytes, 'wall.png', { limits, maxSize: 63 })).resolves.toMatchObject({
      width: 63,
    });
    await expect(
      decodeImage(bytes, 'wall.png', { limits: { ...limits, imageBytes: needed } }),
    ).resolves.toMatchObject({ width: 64, height: 32 });
  });
});
