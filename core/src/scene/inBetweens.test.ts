import { expect, it } from 'vitest';
import { bendsOf, passingTimes, sharesAt } from './inBetweens.ts';

it.each([
  // Alone, a shape is there as far as is said, beyond the whole and the other way too.
  [[1], 0.25, [0.25]],
  [[1], 1.5, [1.5]],
  [[1], -0.5, [-0.5]],
  // Half of the first; three quarters of the way from the first to the second.
  [[0.4, 1], 0.2, [0.5, 0]],
  [[0.4, 1], 0.4, [1, 0]],
  [[0.4, 1], 0.85, [0.25, 0.75]],
  [[0.4, 1], 1, [0, 1]],
  // A third of that way further.
  [[0.4, 1], 1.2, [-1 / 3, 4 / 3]],
  // Stops in another order, and one on the other side of nothing.
  [[1, -0.5, 0.5], -0.25, [0, 0.5, 0]],
  [[1, -0.5, 0.5], 0.75, [0.5, 0, 0.5]],
  [[1, -0.5, 0.5], -1, [0, 2, 0]],
  [[1, -0.5, 0.5], 0, [0, 0, 0]],
])('of shapes that stand at %j a weight of %d is %j', (stops, weight, shares) => {
  sharesAt(stops, weight).forEach((share, i) => expect(share).toBeCloseTo(shares[i], 12));
});

it('one goes over into another at all stops but the outermost, and at nothing between them', () => {
  expect(bendsOf([1])).toEqual([]);
  expect(bendsOf([1, 0.25])).toEqual([0.25]);
  expect(bendsOf([1, -0.5, 0.5])).toEqual([0, 0.5]);
});

it('a line passes the bends between its ends, not those at them', () => {
  expect(passingTimes([2, 4], [0, 1], [0.25, 0.75, 1, 2])).toEqual([2.5, 3.5]);
  expect(passingTimes([2, 4], [1, 0], [0.25])).toEqual([3.5]);
  expect(passingTimes([2, 4], [0.5, 0.5], [0.5])).toEqual([]);
});
