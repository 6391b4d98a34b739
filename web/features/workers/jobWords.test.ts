import { expect, test } from 'vitest';
import { lasting } from './jobWords.ts';

test.each([
  [null, ''],
  [0, '0.0 s'],
  [0.34, '0.3 s'],
  [9.96, '10.0 s'],
  [11.6, '12 s'],
  [119.4, '119 s'],
  [240, '4 min'],
  [7100, '118 min'],
  [7200, '2 h'],
])('%s seconds are told as "%s"', (seconds, words) => expect(lasting(seconds)).toBe(words));
