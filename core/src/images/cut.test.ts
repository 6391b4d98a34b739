import { readFileSync } from 'node:fs';
import { writePsdUint8Array } from 'ag-psd';
import { encodeToKTX2 } from 'ktx2-encoder';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { oiiotool, put, randomBytes, scratch } from '../test/tools.ts';
import { shortfallOf } from './cut.ts';
import { sniffImage } from './format.ts';
import { probeImage } from './probe.ts';
import { encodeTga } from './tga.ts';

const [WIDTH, HEIGHT] = [61, 47];
const noise = randomBytes(WIDTH * HEIGHT * 4, 3);

/** Whole files by other programs' writers, by name; the extension says the format. */
const files = new Map<string, Uint8Array>();
/** Those that say how long they must be. */
const TOLD = [
  'raw.tif',
  'packed.tif',
  'tiles.tif',
  'a.webp',
  'a.avif',
  'a.tx',
  'raw.tga',
  'a.bmp',
  'none.exr',
  'zip.exr',
  'piz.exr',
  'dwaa.exr',
  'raw.dds',
  'a.psd',
  'a.ktx2',
];

beforeAll(async () => {
  const picture = put(
    'noise.png',
    await sharp(noise, { raw: { width: WIDTH, height: HEIGHT, channels: 4 } })
      .png()
      .toBuffer(),
  );
  const write = (name: string, ...options: string[]) => {
    oiiotool(picture, ...options, '-o', `${scratch}/${name}`);
    files.set(name, new Uint8Array(readFileSync(`${scratch}/${name}`)));
  };
  write('a.png');
  write('rgb.jpg', '--ch', 'R,G,B');
  write('raw.tif', '--compression', 'none');
  write('packed.tif', '--compression', 'lzw');
  write('tiles.tif', '--compression', 'zip', '--tile', '16', '16');
  write('a.webp', '--ch', 'R,G,B');
  write('a.avif', '--ch', 'R,G,B');
  write('a.gif', '--ch', 'R,G,B');
  oiiotool(picture, '-otex', `${scratch}/a.tx`);
  files.set('a.tx', new Uint8Array(readFileSync(`${scratch}/a.tx`)));
  write('raw.tga', '--compression', 'none');
  // Without the areas that some writers put behind the pixels.
  files.set('raw.tga', of('raw.tga').subarray(0, 18 + of('raw.tga')[0] + noise.length));
  files.set(
    'runs.tga',
    encodeTga({
      width: WIDTH,
      height: HEIGHT,
      components: 4,
      data: noise.map((value, i) => (i % 400 < 120 ? 7 : value)),
    }),
  );
  write('a.hdr', '--ch', 'R,G,B', '-d', 'float');
  write('a.bmp', '--ch', 'R,G,B');
  for (const kind of ['none', 'zip', 'piz', 'dwaa'])
    write(`${kind}.exr`, '--ch', 'R,G,B', '-d', 'half', '--compression', kind);
  const dds = new DataView(new ArrayBuffer(128));
  [0x20534444, 124, 0x1007, HEIGHT, WIDTH].forEach((value, i) => dds.setUint32(i * 4, value, true));
  [32, 0x41, 0, 32, 0xff0000, 0xff00, 0xff, 0xff000000].forEach((value, i) =>
    dds.setUint32(76 + i * 4, value, true),
  );
  files.set('raw.dds', new Uint8Array([...new Uint8Array(dds.buffer), ...noise]));
  files.set(
    'a.psd',
    writePsdUint8Array({
      width: WIDTH,
      height: HEIGHT,
      imageData: { width: WIDTH, height: HEIGHT, data: new Uint8ClampedArray(noise) },
    }),
  );
  const decoded = async () => ({ width: WIDTH, height: HEIGHT, data: noise });
  files.set(
    'a.ktx2',
    await encodeToKTX2(readFileSync(picture), { isUASTC: true, generateMipmap: true, imageDecoder: decoded }),
  );
});

const NAMES = [...TOLD, 'a.png', 'a.gif', 'rgb.jpg', 'runs.tga', 'a.hdr'];
const of = (name: string) => files.get(name) as Uint8Array;
const shortfall = (name: string, bytes: Uint8Array) =>
  shortfallOf(sniffImage(of(name), name) as never, bytes);

describe('an image file', () => {
  it.each(NAMES)('%s is whole, with bytes behind it too', async (name) => {
    expect(shortfall(name, of(name))).toBeNull();
    expect(shortfall(name, new Uint8Array([...of(name), ...randomBytes(100, 5)]))).toBeNull();
    expect(await probeImage(of(name), name)).toMatchObject({ width: WIDTH, height: HEIGHT });
  });

  it.each(NAMES)('%s is known to be cut wherever its pixels are', async (name) => {
    const whole = of(name);
    for (const share of [0.97, 0.8, 0.5, 0.3]) {
      const part = whole.subarray(0, Math.floor(whole.length * share));
      const found = shortfall(name, part);
      expect(found?.have, `${share}`).toBe(part.length);
      if (TOLD.includes(name))
        expect((found?.need ?? 0) > part.length && (found?.need ?? 0) <= whole.length, `${share}`).toBe(true);
      await expect(probeImage(part, name)).rejects.toMatchObject({
        code: 'image.cut',
        place: { file: name, offset: part.length },
      });
    }
  });

  it.each(NAMES)('%s never ends in raw words, however short', async (name) => {
    const whole = of(name);
    for (let length = 0; length < whole.length; length += length < 300 ? 7 : 501) {
      const error = await probeImage(whole.slice(0, length), name).then(
        () => null,
        (fault) => fault,
      );
      // Some keep words of the writer behind their pixels.
      if (error || length < whole.length * 0.9)
        expect(error?.code, `${length}`).toMatch(/^image\.(cut|broken|falseHeader)$/);
    }
  });

  it('says how many bytes there should be, and how many rows are whole', async () => {
    const raw = of('raw.tga');
    await expect(probeImage(raw.subarray(0, 6018), 'raw.tga')).rejects.toThrow(
      `it is cut off: 6,018 of ${(18 + raw[0] + 11_468).toLocaleString('en')} bytes are there`,
    );
    // Four a pixel, behind the header and the words of the writer.
    expect(WIDTH * HEIGHT * 4).toBe(11_468);
    const png = of('a.png');
    const half = shortfall('a.png', png.subarray(0, Math.floor(png.length / 2)));
    expect(half).toMatchObject({ need: null, rows: { of: HEIGHT } });
    expect(Math.abs((half?.rows?.have ?? 0) - HEIGHT / 2)).toBeLessThan(3);
    await expect(probeImage(png.subarray(0, Math.floor(png.length / 2)), 'a.png')).rejects.toThrow(
      /bytes end before its pixels do; about \d+ of 47 rows are whole/,
    );
  });

  it('passes over bytes that fill the room before the markers of a JPEG', () => {
    const whole = of('rgb.jpg');
    // The first segment lies behind the two bytes of the beginning; markers may have any number of 0xff before.
    const filled = Uint8Array.from([...whole.subarray(0, 2), 0xff, 0xff, 0xff, ...whole.subarray(2)]);
    expect(shortfall('rgb.jpg', filled)).toBeNull();
    expect(shortfall('rgb.jpg', filled.subarray(0, filled.length - 40))).not.toBeNull();
  });

  it.each(['a.png', 'rgb.jpg', 'none.exr'])('%s whose rest is zeros was never written to its end', (name) => {
    const whole = of(name);
    const hollow = whole.slice().fill(0, Math.floor(whole.length / 2));
    if (name === 'none.exr') {
      // The writer that was stopped had not filled its table of blocks in yet.
      const table = whole.length - HEIGHT * (8 + WIDTH * 6) - HEIGHT * 8;
      hollow.set(whole);
      hollow.fill(0, table, table + HEIGHT * 8);
    }
    expect(shortfall(name, hollow)).toMatchObject({ have: whole.length, need: null });
  });
});

describe('forms that hold their lengths elsewhere', () => {
  it('are left to their decoders', () => {
    const head = new TextEncoder().encode('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 4 +X 4\n');
    const plain = (pixels: number[]) => shortfallOf('hdr', new Uint8Array([...head, ...pixels]));
    expect(plain([9, 9, 9, 128, 1, 1, 1, 15])).toBeNull();
    expect(plain([9, 9, 9, 128, 8, 8, 8, 128])).toEqual({ have: head.length + 8, need: head.length + 64 });
    const bmp = of('a.bmp').slice(0, 200);
    expect(shortfallOf('bmp', bmp)).not.toBeNull();
    new DataView(bmp.buffer).setUint32(14, 12, true);
    expect(shortfallOf('bmp', bmp)).toBeNull();
    const exr = of('none.exr').slice(0, of('none.exr').length / 2);
    for (const flag of [0x200, 0x800, 0x1000]) {
      new DataView(exr.buffer).setUint32(4, 2 | flag, true);
      expect(shortfallOf('exr', exr)).toBeNull();
    }
  });
});

describe('an EXR header', () => {
  it('with a sampling that nobody writes is refused before anything counts by it', async () => {
    const bytes = of('none.exr').slice();
    const list = Buffer.from(bytes).indexOf('channels\0chlist\0') + 16 + 4;
    // Name and its end, type, linear flag and three spare bytes; then the two samplings.
    new DataView(bytes.buffer).setUint32(list + 2 + 8, 0, true);
    await expect(probeImage(bytes, 'a.exr')).rejects.toMatchObject({
      code: 'image.broken',
      message: 'its channel B is sampled every 0 by 1 pixels',
    });
  });
});
