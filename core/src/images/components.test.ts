import { describe, expect, it } from 'vitest';
import {
  adjustPlane,
  emptyPixels,
  extractPlane,
  type PackDepth,
  type Plane,
  packByCode,
  packConstant,
  packPlane,
  resizePlane,
} from './components.ts';
import { decodeImage } from './decode.ts';
import { encodePng } from './encode.ts';
import type { PixelBuffer } from './pixelBuffer.ts';
import { probeImage } from './probe.ts';

function packed(planes: Plane[], depth: PackDepth): PixelBuffer {
  const [{ width, height }] = planes;
  const pixels = emptyPixels({ width, height, components: planes.length }, depth);
  for (const [offset, plane] of planes.entries()) packPlane(pixels, offset, plane);
  return pixels;
}

/** The cubic B-spline and the spline of Catmull and Rom, as their own papers have them. */
function bSpline(offset: number): number {
  const x = Math.abs(offset);
  if (x < 1) return 2 / 3 - x ** 2 + x ** 3 / 2;
  return x < 2 ? (2 - x) ** 3 / 6 : 0;
}

function catmullRom(offset: number): number {
  const x = Math.abs(offset);
  if (x < 1) return 1.5 * x ** 3 - 2.5 * x ** 2 + 1;
  return x < 2 ? -0.5 * x ** 3 + 2.5 * x ** 2 - 4 * x + 2 : 0;
}

describe('the filter of Mitchell and Netravali', () => {
  it.each([
    [9, 22],
    [33, 12],
  ])('is a third B-spline and two thirds Catmull and Rom, widened where %i become %i', (from, to) => {
    const middle = Math.floor(from / 2);
    const values = Float32Array.from({ length: from }, (_, i) => (i === middle ? 1 : 0));
    const { values: found } = resizePlane({ width: from, height: 1, values }, to, 1, { filter: 'mitchell' });
    const step = from / to;
    const wide = Math.max(1, step);
    found.forEach((value, i) => {
      const weight = (pixel: number) => {
        const offset = (pixel + 0.5 - (i + 0.5) * step) / wide;
        return bSpline(offset) / 3 + (catmullRom(offset) * 2) / 3;
      };
      const all = Array.from({ length: from + 16 }, (_, pixel) => weight(pixel - 8));
      expect(value).toBeCloseTo(weight(middle) / all.reduce((sum, one) => sum + one, 0), 6);
    });
  });
});

describe('components', () => {
  const rgb = { width: 2, height: 1, components: 3, data: Uint8Array.of(10, 20, 30, 200, 100, 50) };

  it('picks, inverts and packs exactly', () => {
    const inverted = adjustPlane(extractPlane(rgb, 'g'), { invert: true, gain: 1, offset: 0 });
    const three = packed([extractPlane(rgb, 'r'), inverted, extractPlane(rgb, 'a')], 8);
    expect([...three.data]).toEqual([10, 235, 255, 200, 155, 255]);
  });

  it('averages when it shrinks', () => {
    expect(
      resizePlane({ width: 2, height: 2, values: Float32Array.of(0, 1, 0, 1) }, 1, 1).values[0],
    ).toBeCloseTo(0.5, 6);
  });

  it.each([8, 16] as const)('PNG of %i bits comes back equal', async (bitDepth) => {
    const source = packed([extractPlane(rgb, 'r'), extractPlane(rgb, 'g'), extractPlane(rgb, 'b')], bitDepth);
    const bytes = await encodePng(source);
    expect(await probeImage(bytes, 'a.png')).toMatchObject({
      format: 'png',
      width: 2,
      height: 1,
      bitDepth,
      components: 3,
    });
    expect([...(await decodeImage(bytes, 'a.png')).data]).toEqual([...source.data]);
  });

  it('names a false header', async () => {
    await expect(probeImage(new TextEncoder().encode('not an image'), 'x/a.png')).rejects.toMatchObject({
      code: 'image.falseHeader',
      place: { file: 'x/a.png' },
    });
  });

  it('names a type that is not read', async () => {
    await expect(probeImage(new TextEncoder().encode('....ftypheic'), 'x/a.heic')).rejects.toMatchObject({
      code: 'image.format',
      message: 'images of type .heic are not read',
    });
  });

  it('are written over floats as they are, and over whole numbers within their range', () => {
    const plane = (...values: number[]): Plane => ({
      width: 2,
      height: 1,
      values: Float32Array.from(values),
    });
    expect([...packed([plane(2.5, -1), plane(0, 0.5)], 'float').data]).toEqual([2.5, 0, -1, 0.5]);
    expect([...packed([plane(2.5, -1)], 16).data]).toEqual([65535, 0]);
    const pixels = emptyPixels({ width: 2, height: 1, components: 2 }, 8);
    packConstant(pixels, 1, 0.3);
    // 0.3 is 76.5 of 255, as a float a little more.
    expect([...pixels.data]).toEqual([0, 77, 0, 77]);
    expect(() => packPlane(pixels, 0, { width: 1, height: 2, values: new Float32Array(2) })).toThrow(
      expect.objectContaining({ code: 'image.sizes' }),
    );
  });
});

describe('codes that are changed one for one', () => {
  const halved = (plane: Plane) => adjustPlane(plane, { invert: true, gain: 0.5, offset: 0.1 });

  it.each([
    [8, 8, 3, 'g'],
    [8, 16, 1, 'rgb'],
    [8, 8, 2, 'a'],
    [8, 8, 2, 'luminance'],
    [8, 'float', 4, 'a'],
    [16, 8, 3, 'b'],
    [16, 16, 1, 'luminance'],
  ] as const)(
    'of %s bits into %s, %i components, %s, are those changed pixel by pixel',
    (bits, depth, components, component) => {
      const [width, height] = bits === 8 ? [20, 20] : [300, 300];
      const buffer = emptyPixels({ width, height, components }, bits);
      for (let i = 0; i < buffer.data.length; i += 1) buffer.data[i] = (i * 7919) ^ (i >> 2);
      const [byCode, byPixel] = [1, 2].map(() => emptyPixels({ width, height, components: 3 }, depth));
      expect(packByCode(byCode, 1, { buffer, component, change: halved })).toBe(true);
      packPlane(byPixel, 1, halved(extractPlane(buffer, component)));
      const bytesOf = ({ data }: PixelBuffer) => Buffer.from(data.buffer);
      expect(Buffer.compare(bytesOf(byCode), bytesOf(byPixel))).toBe(0);
      expect(new Set(byCode.data).size).toBeGreaterThan(100);
    },
  );

  it('are left alone where there are none, too few pixels, or several to mix', () => {
    const target = emptyPixels({ width: 20, height: 20, components: 1 }, 8);
    const tried = (buffer: PixelBuffer, component: 'r' | 'a' | 'luminance') =>
      packByCode(target, 0, { buffer, component, change: halved });
    expect(tried(emptyPixels({ width: 20, height: 20, components: 3 }, 'float'), 'r')).toBe(false);
    expect(tried(emptyPixels({ width: 20, height: 20, components: 3 }, 16), 'r')).toBe(false);
    expect(tried(emptyPixels({ width: 20, height: 20, components: 3 }, 8), 'luminance')).toBe(false);
    expect(tried(emptyPixels({ width: 20, height: 20, components: 3 }, 8), 'a')).toBe(false);
    expect([...target.data].some((code) => code !== 0)).toBe(false);
  });
});
