import { axesOfSource } from '@kinkajou/core/scene/intake';
import { transformPoint } from '@kinkajou/core/scene/matrix';
import { describe, expect, it } from 'vitest';
import { angleAfter } from './turning.ts';

describe('the turn in the view', () => {
  it('goes round once in its seconds, and on', () => {
    expect([0, 2, 4, 6, 8, 10].map((elapsed) => angleAfter(elapsed, 8) / Math.PI)).toEqual([
      0, 0.5, 1, 1.5, 0, 0.5,
    ]);
  });
});

describe('a place in the model and in the view', () => {
  it('is the same with Y up, lies on its back with Z up, and on its side with X up', () => {
    const places = (['Y', 'Z', 'X'] as const).map((up) =>
      transformPoint(axesOfSource(up), 1, 2, 3).map((value) => value + 0),
    );
    expect(places).toEqual([
      [1, 2, 3],
      [1, 3, -2],
      [-2, 1, 3],
    ]);
  });
});
