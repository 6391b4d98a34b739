import { expect, it } from 'vitest';
import { lasted } from './lasted.ts';

it.each([
  [0, '0 s'],
  [0.4, '0 s'],
  [59.6, '1 min'],
  [61, '1 min 1 s'],
  [5400, '1 h 30 min'],
  [3601, '1 h'],
  [90_061, '1 d 1 h'],
])('%s seconds last %s', (seconds, words) => expect(lasted(seconds)).toBe(words));
