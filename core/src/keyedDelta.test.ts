import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { applyDelta, deltaOf } from './keyedDelta.ts';

const keyOf = ({ key }: { key: string }) => key;

describe('the difference between two keyed lists', () => {
  it('is what went and what came, at its place', () => {
    const before = ['a', 'b', 'c', 'd'].map((key) => ({ key, value: 1 }));
    const after = [before[0], { key: 'b', value: 2 }, { key: 'e', value: 1 }, before[3]];
    expect(deltaOf(before, after, keyOf)).toEqual({
      gone: ['b', 'c'],
      put: [
        { index: 1, item: { key: 'b', value: 2 } },
        { index: 2, item: { key: 'e', value: 1 } },
      ],
    });
    expect(deltaOf(before, before, keyOf)).toBeNull();
    expect(deltaOf([], [], keyOf)).toBeNull();
    expect(applyDelta(before, null, keyOf)).toBe(before);
  });

  it('moves few where one changes its place', () => {
    const before = ['a', 'b', 'c', 'd'].map((key) => ({ key }));
    const after = [before[3], before[0], before[1], before[2]];
    const delta = deltaOf(before, after, keyOf);
    expect(delta).toEqual({ gone: ['d'], put: [{ index: 0, item: { key: 'd' } }] });
  });

  it('makes the one of the other, whatever they are', () => {
    const list = fc.uniqueArray(
      fc.record({ key: fc.constantFrom(...'abcdefgh'), value: fc.integer({ min: 0, max: 2 }) }),
      { selector: keyOf },
    );
    fc.assert(
      fc.property(list, list, (before, after) => {
        expect(applyDelta(before, deltaOf(before, after, keyOf), keyOf)).toEqual(after);
      }),
    );
  });
});
