import { expect, it } from 'vitest';
import { csvTable } from './csv.ts';

it('tables as CSV: what holds commas, quotes or line ends is quoted, and lines end as RFC 4180 says', () => {
  expect(
    csvTable([
      ['a', 'b'],
      ['x,y', 1.5],
      ['say "oak"', 0],
      ['two\nlines', -2],
    ]),
  ).toBe('a,b\r\n"x,y",1.5\r\n"say ""oak""",0\r\n"two\nlines",-2\r\n');
  expect(csvTable([])).toBe('');
});
