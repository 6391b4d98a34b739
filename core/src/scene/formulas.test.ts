import { describe, expect, it } from 'vitest';
import { halfToNumber, numberToHalf } from './half.ts';
import { exponentOfRoughness, reflectanceOfIndex, roughnessOfExponent } from './shading.ts';

describe('half floats', () => {
  // Bit patterns from IEEE 754-2008, binary16.
  it.each([
    [0x0000, 0],
    [0x3c00, 1],
    [0xc000, -2],
    [0x3555, 0.333251953125],
    [0x7bff, 65504],
    [0x0400, 2 ** -14],
    [0x0001, 2 ** -24],
    [0x7c00, Infinity],
    [0xfc00, -Infinity],
  ])('%i is %f both ways', (bits, value) => {
    expect(halfToNumber(bits)).toBe(value);
    expect(numberToHalf(value)).toBe(bits);
  });

  it('rounds to the nearest, ties to even, and overflows to infinity', () => {
    expect(numberToHalf(1 + 2 ** -11)).toBe(0x3c00);
    expect(numberToHalf(1 + 3 * 2 ** -11)).toBe(0x3c02);
    expect(numberToHalf(2 ** -25)).toBe(0);
    expect(numberToHalf(65519)).toBe(0x7bff);
    expect(numberToHalf(65520)).toBe(0x7c00);
    expect(Number.isNaN(halfToNumber(numberToHalf(Number.NaN)))).toBe(true);
  });

  it('keeps every finite half', () => {
    for (let bits = 0; bits < 0x10000; bits += 1)
      if ((bits & 0x7c00) !== 0x7c00)
        expect(numberToHalf(halfToNumber(bits))).toBe(bits === 0x8000 ? numberToHalf(-0) : bits);
  });
});

describe('shading formulas', () => {
  it('roughness of an exponent: Ns 30 gives (2 / 32) ^ 1/4 = 1/2, Ns 0 gives 1', () => {
    expect(roughnessOfExponent(30)).toBeCloseTo(0.5, 12);
    expect(roughnessOfExponent(0)).toBe(1);
    expect(exponentOfRoughness(0.5)).toBeCloseTo(30, 9);
    for (const ns of [1, 12, 96, 900])
      expect(exponentOfRoughness(roughnessOfExponent(ns))).toBeCloseTo(ns, 6);
  });

  it('glass of index 1.5 reflects 4 percent', () => expect(reflectanceOfIndex(1.5)).toBeCloseTo(0.04, 12));
});
