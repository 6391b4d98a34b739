import { isDigitCode, isMark, isMarkNumber, isWordCode, mayBeMark } from './nameMarks.ts';

const SEED = 0x811c9dc5 | 0;
const PRIME = 0x01000193;
const LAST_OF_ASCII = 127;
const DOT = 46;
const SLASH = 47;
const ZERO = 48;

/** FNV-1a over the codes of a text; equal texts have equal hashes. */
export function hashOfText(text: string): number {
  let hash = SEED;
  for (let i = 0; i < text.length; i += 1) hash = Math.imul(hash ^ text.charCodeAt(i), PRIME);
  return hash;
}

/** A stretch of a path; `end` is the offset behind its last letter. */
export interface Stretch {
  start: number;
  end: number;
}

/** The stem of the last name of a path. A dot that a name begins with is none of its type. */
export function stemStretch(path: string): Stretch {
  let start = path.length;
  let dot = -1;
  for (; start > 0; start -= 1) {
    const code = path.charCodeAt(start - 1);
    if (code === SLASH) break;
    if (code === DOT && dot < 0) dot = start - 1;
  }
  return { start, end: dot > start ? dot : path.length };
}

/**
 * The hash of a stem without case, marks and separators, by one pass over its letters and with no text made on
 * the way; null where that needs more than ASCII, or leaves fewer letters than `least`.
 */
export function hashOfBareStem(path: string, { start, end }: Stretch, least: number): number | null {
  let hash = SEED;
  let length = 0;
  // As they were before the word that begins at `word`.
  let hashBefore = hash;
  let lengthBefore = 0;
  let word = start;
  // The number that the word is so far, if it is one.
  let number = 0;
  for (let i = start; i <= end; i += 1) {
    const code = i < end ? lowerCode(path.charCodeAt(i)) : 0;
    if (code > LAST_OF_ASCII) return null;
    if (isWordCode(code)) {
      hash = Math.imul(hash ^ code, PRIME);
      length += 1;
      number = isDigitCode(code) ? number * 10 + code - ZERO : NaN;
      continue;
    }
    if (i > word && isMarkAt(path, { start: word, end: i }, number, i === end)) {
      hash = hashBefore;
      length = lengthBefore;
    }
    number = 0;
    hashBefore = hash;
    lengthBefore = length;
    word = i + 1;
  }
  return length < least ? null : hash;
}

/** Whether the word of a stretch is a mark; `number` is what it says where it is of digits alone, else NaN. */
function isMarkAt(path: string, { start, end }: Stretch, number: number, last: boolean): boolean {
  if (!Number.isNaN(number)) return isMarkNumber(number, end - start, last);
  return (
    mayBeMark(lowerCode(path.charCodeAt(start)), end - start) &&
    isMark(path.slice(start, end).toLowerCase(), last)
  );
}

/** The hash of the first letters of a stem and of all its digits; null where that needs more than ASCII. */
export function hashOfSpelling(path: string, { start, end }: Stretch, letters: number): number | null {
  let hash = SEED;
  for (let i = start; i < Math.min(end, start + letters); i += 1)
    hash = Math.imul(hash ^ lowerCode(path.charCodeAt(i)), PRIME);
  for (let i = start; i < end; i += 1) {
    const code = path.charCodeAt(i);
    if (code > LAST_OF_ASCII) return null;
    if (isDigitCode(code)) hash = Math.imul(hash ^ code, PRIME);
  }
  return hash;
}

/** The code of a letter's small form, within ASCII. */
function lowerCode(code: number): number {
  return code >= 65 && code <= 90 ? code + 32 : code;
}
