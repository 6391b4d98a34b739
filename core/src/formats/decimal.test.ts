import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DecimalReader } from './decimal.ts';

const reader = new DecimalReader();

/** What is read of a text, and how many of its letters; null when it is left to the caller. */
function read(text: string, behind = ''): { value: number; letters: number } | null {
  const bytes = new TextEncoder().encode(text + behind);
  const end = reader.read(bytes, 0, bytes.length);
  return end < 0 ? null : { value: reader.value, letters: end };
}

describe('a decimal number out of bytes', () => {
  it.each([
    ['0', 0],
    ['-0', -0],
    ['+7', 7],
    ['.5', 0.5],
    ['5.', 5],
    ['007.2500', 7.25],
    ['123456789', 123456789],
    ['1234567890', 1234567890],
    ['9007199254740991', 9007199254740991],
    // Beyond 2^53, where neighbours are two apart.
    ['9007199254740994', 9007199254740994],
    ['0.70710678118654757', Math.SQRT1_2],
    ['0.000123456789012345678', 0.00012345678901234567],
    ['1e3', 1000],
    ['-4.37114e-08', -4.37114e-8],
    ['2.5E+2', 250],
    ['0e999', 0],
    ['00000000000000000000000012', 12],
    ['0.0000000000000000000012', 1.2e-21],
  ])('%s', (text, value) => {
    expect(read(text)).toEqual({ value, letters: text.length });
    expect(read(text, ' 9')).toEqual({ value, letters: text.length });
    expect(read(text, ',')?.letters).toBe(text.length);
  });

  it.each([
    '',
    '-',
    '.',
    '+.',
    'nan',
    '1e',
    '1e+',
    'e5',
    // Too long, or too far from 1, to be told from two halves.
    '1234567890123456789',
    '0.1234567890123456789',
    '1e23',
    '1e-23',
    '1e400',
    '123456789012345678e2',
  ])('leaves "%s" to its caller', (text) => {
    expect(read(text)).toBeNull();
  });

  it('ends where the number does', () => {
    expect(read('1.5.2')).toEqual({ value: 1.5, letters: 3 });
    expect(read('3-4')).toEqual({ value: 3, letters: 1 });
    expect(read('12/7')).toEqual({ value: 12, letters: 2 });
    const bytes = new TextEncoder().encode('12345');
    expect([reader.read(bytes, 1, 3), reader.value]).toEqual([3, 23]);
  });

  it('tells whether a point or an exponent was written', () => {
    const written = ['5', '5.', '5.0', '5e0'].map((text) => read(text) && reader.fractional);
    expect(written).toEqual([false, true, true, true]);
  });

  it('is the nearest double for every number of a double, however many digits are written', () => {
    let read17 = 0;
    fc.assert(
      fc.property(
        fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e6, max: 1e6 }),
        fc.integer({ min: 1, max: 18 }),
        (value, digits) => {
          for (const text of [value.toPrecision(digits), String(value), value.toFixed(digits)]) {
            const known = read(text);
            if (known) expect([text, known]).toEqual([text, { value: Number(text), letters: text.length }]);
            if (known && digits > 16) read17 += 1;
          }
        },
      ),
      { numRuns: 3000 },
    );
    expect(read17).toBeGreaterThan(100);
  });

  it('leaves what lies halfway between two doubles, and rounds what lies beside it', () => {
    // From 2^52 on doubles are the whole numbers, from 2^51 on the halves, from 2^58 on every 64th.
    const halfway = fc.oneof(
      fc.bigInt({ min: 2n ** 52n, max: 2n ** 53n - 1n }).map((whole) => [`${whole}`, '.5'] as const),
      fc.bigInt({ min: 2n ** 51n, max: 2n ** 52n - 1n }).map((whole) => [`${whole}`, '.25'] as const),
      fc
        .bigInt({ min: 2n ** 52n, max: 2n ** 53n - 1n })
        .map((sixth) => [`${sixth * 64n + 32n}`, ''] as const),
    );
    fc.assert(
      fc.property(halfway, fc.integer({ min: -3, max: 3 }), ([whole, fraction], step) => {
        const digits = BigInt(whole + fraction.slice(1)) + BigInt(step);
        const place = Math.max(0, fraction.length - 1);
        const text =
          place === 0 ? `${digits}` : `${digits / 10n ** BigInt(place)}.${`${digits}`.slice(-place)}`;
        expect([text, read(text)?.value]).toEqual([text, step === 0 ? undefined : Number(text)]);
      }),
      { numRuns: 2000 },
    );
  });
});
