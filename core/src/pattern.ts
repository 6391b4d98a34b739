import { KinkajouError } from './errors.ts';

/**
 * What a pattern's wildcards, or the groups of a regular expression, stand for in a name; null where it does
 * not fit.
 */
export type Matcher = (name: string) => string[] | null;

/**
 * A pattern for whole names: a glob whose case does not matter and whose stars match anything, or a regular
 * expression between slashes. Throws `pattern.invalid` for an expression that is none.
 */
export function createMatcher(pattern: string): Matcher {
  const expression = regularExpression(pattern);
  return (name) => {
    const match = expression.exec(name);
    return match?.slice(1).map((group) => group ?? '') ?? null;
  };
}

const MOST_LETTERS = 2000;

function regularExpression(pattern: string): RegExp {
  const invalid = (why: string, hint: string) =>
    new KinkajouError('pattern.invalid', `"${pattern.slice(0, 80)}" is no pattern: ${why}`, {}, hint);
  if (pattern.length === 0 || pattern.length > MOST_LETTERS)
    throw invalid(`it has ${pattern.length} letters`, `Give 1 to ${MOST_LETTERS}.`);
  const written = /^\/(.+)\/([a-z]*)$/su.exec(pattern);
  try {
    return written
      ? new RegExp(written[1], written[2].replaceAll(/[gy]/g, ''))
      : new RegExp(`^${translate(pattern)}$`, 'isu');
  } catch (error) {
    throw invalid(
      (error as Error).message.replace(/^Invalid regular expression: /, ''),
      written ? 'Mend the expression between the slashes.' : 'Mend it.',
    );
  }
}

/**
 * Names are no paths: slashes, dots and round brackets mean themselves, and each star is a group of its own.
 * So this is not left to a library for file names.
 */
function translate(glob: string): string {
  let out = '';
  let depth = 0;
  const letters = [...glob];
  for (let i = 0; i < letters.length; i += 1) {
    const letter = letters[i];
    if (letter === '*') {
      while (letters[i + 1] === '*') i += 1;
      out += '(.*?)';
    } else if (letter === '?') out += '.';
    else if (letter === '[') {
      const end = letters.indexOf(']', i + 2);
      const inner = letters.slice(i + 1, end);
      if (end < 0) out += '\\[';
      else {
        const not = inner[0] === '!' || inner[0] === '^';
        out += `[${not ? '^' : ''}${inner
          .slice(not ? 1 : 0)
          .map((character) => (character === '-' ? '-' : escaped(character)))
          .join('')}]`;
        i = end;
      }
    } else if (letter === '{' && letters.includes('}', i)) {
      depth += 1;
      out += '(?:';
    } else if (letter === '}' && depth > 0) {
      depth -= 1;
      out += ')';
    } else if (letter === ',' && depth > 0) out += '|';
    else if (letter === '\\' && i + 1 < letters.length) {
      i += 1;
      out += escaped(letters[i]);
    } else out += escaped(letter);
  }
  return `${out}${')'.repeat(depth)}`;
}

function escaped(letter: string): string {
  return /[\\^$.*+?()[\]{}|/]/u.test(letter) ? `\\${letter}` : letter;
}
