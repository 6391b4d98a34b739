import { expect, it } from 'vitest';
import { bestCutoff } from './coverage.ts';

const bins = (shares: Record<number, number>) => Array.from({ length: 64 }, (_, i) => shares[i] ?? 0);

it('cuts a hard edge in the middle', () => {
  expect(bestCutoff(bins({ 0: 0.4, 63: 0.6 }))).toMatchObject({
    cutoff: 0.5,
    kept: expect.closeTo(0.6, 9),
    wanted: expect.closeTo(0.6, 9),
  });
});

it('cuts a faint map low, so that as much is kept as blending shows', () => {
  // Half clear, a quarter at about 0.25, a quarter at about 0.3: the mean is 0.137, so about 0.137 should
  // stay.
  const { cutoff, kept, wanted: expected } = bestCutoff(bins({ 0: 0.5, 16: 0.25, 19: 0.15, 25: 0.1 }));
  expect(expected).toBeCloseTo(0.25 * (16.5 / 64) + 0.15 * (19.5 / 64) + 0.1 * (25.5 / 64), 9);
  expect(kept).toBeCloseTo(0.1, 9);
  expect(cutoff).toBeGreaterThan(19 / 64);
  expect(cutoff).toBeLessThanOrEqual(25 / 64);
});
