import { expect, test } from 'vitest';
import { stepOf } from './steps.ts';

test('an address names its step; one that names none, or another thing, stands for slots', () => {
  expect(
    ['/assets/7c/colour', '/assets/7c/handoff', '/assets/7c', '/assets/7c/walnut', '/'].map(stepOf),
  ).toEqual(['colour', 'handoff', 'slots', 'slots', 'slots']);
});
