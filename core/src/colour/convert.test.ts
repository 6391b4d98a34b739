import { describe, expect, it } from 'vitest';
import type { PixelBuffer } from '../images/pixelBuffer.ts';
import { decodeSrgb } from '../scene/transfer.ts';
import { convertPixels } from './convert.ts';
import { DIALECT_NAMES, DIALECTS, spaceOfWord, tagSpace, tagWord } from './dialects.ts';

const pixels = (components: number, data: PixelBuffer['data']): PixelBuffer => ({
  width: data.length / components,
  height: 1,
  components,
  data,
});

describe('pixels between colour spaces', () => {
  it('decodes 8 bits to floats by the published curve, and leaves alpha alone', () => {
    const { buffer, report } = convertPixels(
      pixels(4, Uint8Array.of(0, 10, 128, 51, 255, 255, 255, 255)),
      'srgb_rec709_scene',
      'lin_rec709_scene',
    );
    expect(buffer.data).toBeInstanceOf(Float32Array);
    // 10 / 255 / 12.92; ((128 / 255 + 0.055) / 1.055) ^ 2.4; 51 / 255.
    [0, 0.0030353, 0.2158605, 0.2, 1, 1, 1, 1].forEach((value, i) => {
      expect(buffer.data[i]).toBeCloseTo(value, 6);
    });
    expect(report).toEqual({ outOfGamut: 0, clipped: 0 });
  });

  it('gives back every 8-bit code after a trip through floats', () => {
    const codes = Uint8Array.from({ length: 256 }, (_, i) => i);
    const wide = convertPixels(pixels(1, codes), 'srgb_rec709_scene', 'lin_ap1_scene').buffer;
    expect(convertPixels(wide, 'lin_ap1_scene', 'srgb_rec709_scene', { depth: 8 }).buffer.data).toEqual(
      codes,
    );
  });

  it('keeps floats as floats, over 1 and below 0 too', () => {
    const { buffer, report } = convertPixels(
      pixels(3, Float32Array.of(4, 0, 0, 0.2, 0.2, 0.2)),
      'lin_ap1_scene',
      'lin_rec709_scene',
    );
    expect(buffer.data).toBeInstanceOf(Float32Array);
    // First column of AP1 to Rec.709: 1.70505, -0.13026, -0.02400.
    [6.8202, -0.52103, -0.09601].forEach((value, i) => {
      expect(buffer.data[i]).toBeCloseTo(value, 3);
    });
    expect(report).toEqual({ outOfGamut: 0.5, clipped: 0 });
  });

  it('keeps the depth of integers between encoded spaces, and goes to floats for light', () => {
    const eight = { width: 1, height: 1, components: 3, data: Uint8Array.of(10, 20, 30) };
    const sixteen = { ...eight, data: Uint16Array.of(1000, 2000, 3000) };
    const data = (pixels: PixelBuffer, to: 'srgb_p3d65_scene' | 'lin_rec709_scene') =>
      convertPixels(pixels, 'srgb_rec709_scene', to).buffer.data;
    expect(data(eight, 'srgb_p3d65_scene')).toBeInstanceOf(Uint8Array);
    expect(data(sixteen, 'srgb_p3d65_scene')).toBeInstanceOf(Uint16Array);
    expect(data(eight, 'lin_rec709_scene')).toBeInstanceOf(Float32Array);
    expect(data(sixteen, 'lin_rec709_scene')).toBeInstanceOf(Float32Array);
  });

  it('says what integers had to cut', () => {
    const { buffer, report } = convertPixels(
      pixels(3, Float32Array.of(1.5, 0.5, 0.5, 0.5, 0.5, 0.5)),
      'lin_rec709_scene',
      'srgb_rec709_scene',
      { depth: 16 },
    );
    expect(report).toEqual({ outOfGamut: 0, clipped: 0.5 });
    expect(buffer.data[0]).toBe(65_535);
    // 1.055 * 0.5 ^ (1 / 2.4) - 0.055 = 0.735357.
    expect(buffer.data[3]).toBe(Math.round(0.735357 * 65_535));
  });

  it('raises stored numbers to an exponent before the curve', () => {
    const { buffer } = convertPixels(
      pixels(1, Float32Array.of(0.5)),
      'lin_rec709_scene',
      'lin_rec709_scene',
      { exponent: 2.2 },
    );
    expect(buffer.data[0]).toBeCloseTo(0.217638, 6);
    expect(decodeSrgb(0.5)).toBeCloseTo(0.214041, 6);
  });
});

describe('tag dialects', () => {
  it('are switched both ways without loss wherever a word exists', () => {
    for (const dialect of DIALECT_NAMES) {
      for (const [space, word] of Object.entries(DIALECTS[dialect].words)) {
        expect(tagSpace(word, dialect), `${dialect}: ${word}`).toBe(space);
        expect(tagSpace(word.toUpperCase(), dialect)).toBe(space);
      }
    }
    expect(tagWord('lin_ap1_scene', 'usd')).toBeNull();
    expect(tagWord('lin_ap1_scene', 'acesCg')).toBe('ACEScg');
    expect(spaceOfWord('Utility - Raw')).toBe('data');
    expect(spaceOfWord('nonsense')).toBeNull();
  });
});
