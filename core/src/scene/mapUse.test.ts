import { describe, expect, it } from 'vitest';
import { asLine, complementUse, readAllStored, readStored } from './mapUse.ts';
import { createMapUse } from './material.ts';

const RANGES = [
  // What 0, 0.25 and 1 become, by hand.
  { range: { invert: false, gain: 1, offset: 0 }, read: [0, 0.25, 1] },
  { range: { invert: true, gain: 1, offset: 0 }, read: [1, 0.75, 0] },
  { range: { invert: false, gain: 2, offset: -1 }, read: [-1, -0.5, 1] },
  { range: { invert: true, gain: 0.5, offset: 0.25 }, read: [0.75, 0.625, 0.25] },
  { range: { invert: false, gain: 0, offset: 0.5 }, read: [0.5, 0.5, 0.5] },
];

describe.each(RANGES)('what is stored, read with $range', ({ range, read }) => {
  it('one by one', () => {
    expect([0, 0.25, 1].map((stored) => readStored(range, stored))).toEqual(read);
  });

  it('all at once, in place', () => {
    const values = Float32Array.of(0, 0.25, 1);
    expect(readAllStored(range, values)).toBe(values);
    expect([...values]).toEqual(read);
  });

  it('as a line without inversion', () => {
    const { gain, offset } = asLine(range);
    expect([0, 0.25, 1].map((stored) => stored * gain + offset)).toEqual(read);
  });

  it.each([1, 0.5, 0])('and taken from 1, with the value %s', (value) => {
    const complement = complementUse(value, createMapUse('a', 'roughness', range));
    [0, 0.25, 1].forEach((stored, i) =>
      expect(readStored(complement, stored)).toBeCloseTo(1 - value * read[i], 12),
    );
  });
});
