import { expect, it } from 'vitest';
import { parseJson } from './json.ts';

const read = (text: string) =>
  parseJson(text, { file: 'words.json', code: 'words.invalid', hint: 'Mend it.' });

it('reads what is right', () => {
  expect(read('{"a": [1, "b", null]}')).toEqual({ a: [1, 'b', null] });
});

it.each([
  ['{"a": 1\n "b": 2}', 2, 'its JSON is damaged at column 2: a comma should stand there'],
  ['{"a" 1}', 1, 'its JSON is damaged at column 6: a colon should stand there'],
  ['[1, 2', 1, 'its JSON is damaged at column 6: a closing bracket should stand there'],
  ['{"a": }', 1, 'its JSON is damaged at column 7: a value should stand there'],
  ['{"a": 1} x', 1, 'its JSON is damaged at column 10: nothing like that can stand there'],
  ['', 1, 'its JSON is damaged at column 1: a value should stand there'],
  ['{"a": 1}\n// done', 2, 'its JSON is damaged at column 1: nothing like that can stand there'],
])('tells line, column and what is expected: %s', (text, line, message) => {
  expect(() => read(text)).toThrow(
    expect.objectContaining({
      code: 'words.invalid',
      message,
      place: { file: 'words.json', line },
      hint: 'Mend it.',
    }),
  );
});
