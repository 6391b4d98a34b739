import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { oiiotool, scratch } from '../test/tools.ts';
import { decodeImage } from './decode.ts';
import { unitOf } from './pixelBuffer.ts';
import { probeImage } from './probe.ts';

describe('pixels of rarer kinds', () => {
  it('two components: grey with alpha of 8 and 16 bits and floats, red and green of EXR', async () => {
    const made = async (name: string, channels: string, depth: string) => {
      const pattern = ['--pattern', 'constant:color=0.8,0.5', '3x2', '2', '--chnames', channels, '-d', depth];
      oiiotool(...pattern, '--attrib', 'oiio:UnassociatedAlpha', '1', '-o', `${scratch}/${name}`);
      const bytes = new Uint8Array(readFileSync(`${scratch}/${name}`));
      const { components, data } = await decodeImage(bytes, name);
      expect((await probeImage(bytes, name)).components, name).toBe(2);
      return [components, data[2] / unitOf(data), data[3] / unitOf(data)];
    };
    for (const [name, depth] of [
      ['grey8.png', 'uint8'],
      ['grey16.png', 'uint16'],
      ['grey8.tif', 'uint8'],
      ['grey16.tif', 'uint16'],
      ['grey.tif', 'float'],
      ['grey.exr', 'float'],
    ]) {
      const [components, grey, alpha] = await made(name, 'Y,A', depth);
      expect(components, name).toBe(2);
      expect(grey, name).toBeCloseTo(0.8, 2);
      expect(alpha, name).toBeCloseTo(0.5, 2);
    }
    const [components, red, green] = await made('vectors.exr', 'R,G', 'half');
    expect([components, red.toFixed(2), green.toFixed(2)]).toEqual([2, '0.80', '0.50']);
  });

  it('TIFF of kinds that are not read is refused in words', async () => {
    // A row of two greys: half floats and floats of 64 bits (sample format 3).
    const tiff = (bits: number) => {
      const entries = [
        [256, 4, 2],
        [257, 4, 1],
        [258, 3, bits],
        [259, 3, 1],
        [262, 3, 1],
        [273, 4, 8 + 2 + 10 * 12 + 4],
        [277, 3, 1],
        [278, 4, 1],
        [279, 4, bits / 4],
        [339, 3, 3],
      ];
      const out = new DataView(new ArrayBuffer(8 + 2 + 10 * 12 + 4 + bits / 4));
      [0x4949, 42, 8, 0].forEach((value, i) => out.setUint16(i * 2, value, true));
      out.setUint16(8, entries.length, true);
      entries.forEach(([tag, kind, value], i) => {
        out.setUint16(10 + i * 12, tag, true);
        out.setUint16(12 + i * 12, kind, true);
        out.setUint32(14 + i * 12, 1, true);
        out.setUint32(18 + i * 12, value, true);
      });
      return new Uint8Array(out.buffer);
    };
    await expect(probeImage(tiff(16), 'a.tif')).rejects.toMatchObject({
      code: 'image.format',
      message: 'its greys are half floats, which is not read',
    });
    await expect(probeImage(tiff(64), 'a.tif')).rejects.toMatchObject({
      code: 'image.format',
      message: expect.stringMatching(/floats of 64 bits/),
    });
    const made = (count: number) => {
      const colour = Array.from({ length: count }, (_, i) => (i + 1) / 10).join(',');
      const attribute = ['--attrib', 'oiio:UnassociatedAlpha', '1'];
      const path = `${scratch}/many${count}.tif`;
      oiiotool(
        '--pattern',
        `constant:color=${colour}`,
        '3x2',
        `${count}`,
        '-d',
        'uint8',
        ...attribute,
        '-o',
        path,
      );
      return new Uint8Array(readFileSync(path));
    };
    await expect(probeImage(made(7), 'seven.tif')).rejects.toMatchObject({
      code: 'image.format',
      message: 'it has more than four components, which is not read',
    });
    // A fifth component is left out.
    const { components, data } = await decodeImage(made(5), 'five.tif');
    expect([components, ...data.slice(0, 8)]).toEqual([4, 26, 51, 77, 102, 26, 51, 77, 102]);
  });

  it('inks of JPEG and TIFF as red, green and blue', async () => {
    const flat = sharp({
      create: { width: 32, height: 32, channels: 3, background: { r: 20, g: 180, b: 60 } },
    });
    for (const [name, bytes] of [
      ['inks.jpg', await flat.clone().toColourspace('cmyk').jpeg({ quality: 100 }).toBuffer()],
      ['inks.tif', await flat.clone().toColourspace('cmyk').tiff().toBuffer()],
    ] as const) {
      expect(await probeImage(new Uint8Array(bytes), name), name).toMatchObject({
        components: 3,
        inks: true,
      });
      const { components, data } = await decodeImage(new Uint8Array(bytes), name);
      expect([components, data.length], name).toEqual([3, 32 * 32 * 3]);
      // Green stays green; inks hold less of it.
      expect(data[1], name).toBeGreaterThan(data[0] + 60);
      expect(data[1], name).toBeGreaterThan(data[2] + 60);
    }
  });
});
