import fc from 'fast-check';
import { expect, it } from 'vitest';
import { valuesAtRanks } from './valuesAtRanks.ts';

it('are those of the sorted list, negative ones, equal ones and zeros too', () => {
  fc.assert(
    fc.property(fc.array(fc.float({ noNaN: true }), { minLength: 1, maxLength: 200 }), (list) => {
      const values = Float32Array.from(list.flatMap((value) => [value, -value, value / 1000, 0.5]));
      const ranks = [0, 1, values.length >> 2, values.length >> 1, values.length - 1];
      const sorted = [...values].sort((a, b) => a - b);
      // Of zeros the sign is no order.
      expect(valuesAtRanks(values, ranks).map((value) => value + 0)).toEqual(
        ranks.map((rank) => sorted[rank] + 0),
      );
    }),
  );
});

it('tell nothing where there is no such rank', () => {
  expect(valuesAtRanks(Float32Array.of(3, 1), [1, 2])).toEqual([3, Number.NaN]);
  expect(valuesAtRanks(new Float32Array(0), [0])).toEqual([Number.NaN]);
});
