import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { decodeIntegers, encodeIntegers } from './integerCoding.ts';
import { packBlocks, unpackBlocks } from './lz4.ts';

const bytes = (text: string) => new TextEncoder().encode(text);

describe('packed numbers and blocks', () => {
  it('hold long runs in little, and come back', () => {
    const run = new Uint8Array(100_000).fill(7);
    expect(packBlocks(run).length).toBeLessThan(600);
    expect(unpackBlocks(packBlocks(run), run.length)).toEqual(run);
    const text = bytes(`${'harbour '.repeat(500)}quay`);
    expect(unpackBlocks(packBlocks(text), text.length)).toEqual(text);
  });

  it('are read by the rules of the block format', () => {
    // One chunk; four letters as they are, then eight more from four back, then five letters.
    const packed = Uint8Array.from([0, 0x44, 97, 98, 99, 100, 4, 0, 0x50, 118, 119, 120, 121, 122]);
    expect(new TextDecoder().decode(unpackBlocks(packed, 17))).toBe('abcdabcdabcdvwxyz');
    // Two chunks, the second reaching back into the first; lengths of 15 and more go on in the next bytes.
    const long = [0xf0, 1, ...bytes('0123456789abcdef')];
    const second = [0x0f, 16, 0, 255, 2, 0x10, 33];
    const chunks = Uint8Array.from([2, long.length, 0, 0, 0, ...long, second.length, 0, 0, 0, ...second]);
    const whole = '0123456789abcdef'.repeat(20).slice(0, 16 + 4 + 15 + 255 + 2);
    expect(new TextDecoder().decode(unpackBlocks(chunks, whole.length + 1))).toBe(`${whole}!`);
  });

  it.each<[string, number[], number]>([
    ['a length that is cut off', [0, 0xf0, 255], 400],
    ['letters that are missing', [0, 0x40, 97], 4],
    ['a step back before the beginning', [0, 0x14, 97, 9, 0], 20],
    ['no step back', [0, 0x14, 97, 0, 0], 20],
    ['more than was announced', [0, 0x14, 97, 1, 0], 3],
    ['less than was announced', [0, 0x10, 97], 9],
    ['a chunk that is cut off', [2, 9, 0, 0, 0, 97], 20],
    ['a chunk without its length', [2, 9, 0], 20],
    ['a match whose length is cut off', [0, 0x1f, 97, 1, 0, 255], 600],
    ['far more than a block can hold', [0, 0x10, 97], 100_000],
  ])('refuse %s', (_what, data, size) => {
    expect(() => unpackBlocks(Uint8Array.from(data), size)).toThrow(
      expect.objectContaining({ code: 'usd.broken' }),
    );
  });

  it('hold whole numbers by the commonest difference', () => {
    // 0 1 2 3 ...: all differences are 1, so two bits a number and nothing else.
    const steps = Int32Array.from({ length: 4000 }, (_, i) => i);
    const data = unpackBlocks(encodeIntegers(steps), 1e6, true);
    expect(data.length).toBe(4 + 1000 + 1);
    expect(new DataView(data.buffer, data.byteOffset).getInt32(0, true)).toBe(1);
    fc.assert(
      fc.property(
        fc.array(
          fc.oneof(
            fc.integer({ min: -200, max: 200 }),
            fc.integer({ min: -40_000, max: 40_000 }),
            fc.integer(),
          ),
          { maxLength: 60 },
        ),
        (list) => {
          expect(Array.from(decodeIntegers(encodeIntegers(list), list.length))).toEqual(list);
        },
      ),
    );
    expect(() => decodeIntegers(encodeIntegers([1, 5, 900]), 30)).toThrow(/broken|cut|damaged|packed/);
  });
});
