import { describe, expect, it } from 'vitest';
import { toBytes } from './quantise.ts';

const one = (data: Uint8Array | Uint16Array | Float32Array) =>
  toBytes({ width: data.length, height: 1, components: 1, data }).data;

describe('pixels as 8 bits', () => {
  it('takes bytes as they are', () => {
    const data = Uint8Array.of(0, 7, 255);
    expect(one(data)).toBe(data);
  });

  it('rounds 16 bits: 257 steps to one', () =>
    expect(Array.from(one(Uint16Array.of(0, 128, 129, 257, 65535)))).toEqual([0, 0, 1, 1, 255]));

  it('encodes floats by IEC 61966-2-1 and clips them', () => {
    // ((128 / 255 + 0.055) / 1.055) ^ 2.4 is 0.2158605; the straight part is 12.92 times.
    expect(Array.from(one(Float32Array.of(-1, 0, 0.002, 0.2158605, 1, 40)))).toEqual([
      0,
      0,
      Math.round(0.002 * 12.92 * 255),
      128,
      255,
      255,
    ]);
  });
});
