import type { Part } from '@kinkajou/core/asset/parts';
import { describe, expect, it } from 'vitest';
import { placesAnything, placingOf, rounded } from './placing.ts';

const part = (key: string, more: Partial<Part>) =>
  ({ key, parent: null, bounds: null, pivot: null, polygons: 0, ...more }) as Part;
const box = (min: [number, number, number], max: [number, number, number]) => ({ min, max });

describe('parts that are to be placed', () => {
  const post = part('Post', { polygons: 6, pivot: [1, 0, 0], bounds: box([0, 0, 0], [2, 4, 2]) });
  const group = part('Lamp', { pivot: [9, 9, 9] });
  const arm = part('Arm', { parent: 'Lamp' });
  const bulb = part('Bulb', { parent: 'Arm', polygons: 4, bounds: box([4, 0, 0], [6, 2, 8]) });
  // As edits leave them, a child may come before what it hangs on.
  const all = [post, bulb, arm, group];

  it('turn about the pivot of the one, the middle of several, and of what hangs on a group', () => {
    expect(placingOf([post], all)).toMatchObject({
      parts: ['Post'],
      about: [1, 0, 0],
      scale: 1,
      sent: false,
    });
    expect(placingOf([post, bulb], all).about).toEqual([3, 2, 4]);
    const far = part('Bell', { ...post, pivot: [0, 40, 0] });
    expect(placingOf([far], [far]).about).toEqual([1, 2, 1]);
    expect(placingOf([group], all).about).toEqual([5, 1, 4]);
    expect(placingOf([part('Empty', { pivot: [1, 2, 3] })], []).about).toEqual([1, 2, 3]);
  });

  it('are placed where something is moved, in round numbers', () => {
    const still = placingOf([post], all);
    expect(placesAnything(still)).toBe(false);
    expect(placesAnything({ ...still, turn: [0, 1, 0] })).toBe(true);
    expect(placesAnything({ ...still, scale: 2 })).toBe(true);
    const { move, turn, scale } = rounded({
      ...still,
      move: [0.12345, -0.00001, 2],
      turn: [0.004, 89.996, 0],
      scale: 0,
    });
    expect([move, turn, scale]).toEqual([[0.1235, 0, 2], [0, 90, 0], 0.001]);
  });
});
