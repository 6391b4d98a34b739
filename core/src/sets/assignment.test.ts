import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { assignBest } from './assignment.ts';

/** The greatest total by trying every assignment. */
function bestByTrying(values: number[][], row = 0, taken: ReadonlySet<number> = new Set()): number {
  if (row === values.length) return 0;
  let best = bestByTrying(values, row + 1, taken);
  for (const [column, value] of values[row].entries()) {
    if (value <= 0 || taken.has(column)) continue;
    best = Math.max(best, value + bestByTrying(values, row + 1, new Set([...taken, column])));
  }
  return best;
}

describe('assignment', () => {
  it('gives up a good pair for a better whole', () => {
    // Row 0 alone would take column 0, but then row 1 has nothing: 9 + 8 beats 10.
    expect(
      assignBest([
        [10, 9],
        [8, 0],
      ]).map(({ row, column }) => [row, column]),
    ).toEqual([
      [0, 1],
      [1, 0],
    ]);
  });

  it('tells by how much the whole is better than without a pair', () => {
    const [first, second] = assignBest([
      [1, 0.2],
      [0.3, 0.9],
    ]);
    // Without (0, 0) row 0 takes column 1 and row 1 column 0, or row 1 keeps its own: 0.9 is the best that is
    // left.
    expect(first.margin).toBeCloseTo(1.9 - 0.9, 9);
    expect(second.margin).toBeCloseTo(1.9 - 1, 9);
    expect(assignBest([[1, 1]])[0].margin).toBe(0);
  });

  it('never pairs what is worth nothing', () => {
    expect(
      assignBest([
        [0, -1],
        [0, 0],
      ]),
    ).toEqual([]);
    expect(assignBest([])).toEqual([]);
  });

  it('finds the greatest total of any table', () => {
    const table = fc
      .tuple(fc.integer({ min: 1, max: 5 }), fc.integer({ min: 1, max: 5 }))
      .chain(([rows, columns]) =>
        fc.array(fc.array(fc.integer({ min: -3, max: 20 }), { minLength: columns, maxLength: columns }), {
          minLength: rows,
          maxLength: rows,
        }),
      );
    fc.assert(
      fc.property(table, (values) => {
        const pairs = assignBest(values);
        const total = pairs.reduce((sum, { row, column }) => sum + values[row][column], 0);
        expect(total).toBe(bestByTrying(values));
        expect(new Set(pairs.map(({ column }) => column)).size).toBe(pairs.length);
        for (const { row, column, margin } of pairs) {
          const without = values.map((line, i) =>
            line.map((value, j) => (i === row && j === column ? 0 : value)),
          );
          expect(margin).toBe(total - bestByTrying(without));
        }
      }),
      { numRuns: 200 },
    );
  });
});
