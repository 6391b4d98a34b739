/** Words that tell resolution, version, copy or encoding; numbers are judged by {@link isMark}. */
const MARK_WORDS = new Set([
  'copy',
  'final',
  'lo',
  'hi',
  'low',
  'high',
  'lowres',
  'highres',
  'srgb',
  'linear',
  'raw',
  'lin',
  'acescg',
]);
/** Words with other beginnings or of more letters are no marks. */
const MARK_BEGINNINGS = new Set(Array.from(MARK_WORDS, (word) => word.charCodeAt(0)));
const LONGEST_MARK = 7;
/** Sides of images. */
const SIDES = new Set([64, 128, 256, 512, 1024, 2048, 4096, 8192, 16384]);
const MARK = /^(\d{1,2}k|\d{1,2}bit|v\d{1,4}|u\d{1,2}|\d{3,5}x\d{3,5})$/;
const SMALL_U = 117;
const SMALL_V = 118;

/** Whether a word of a name, in small letters, tells a resolution, a version, a copy, or, as its last, a tile. */
export function isMark(word: string, last: boolean): boolean {
  const first = word.charCodeAt(0);
  if (isDigitCode(first) || first === SMALL_U || first === SMALL_V)
    return MARK.test(word) || (/^\d+$/.test(word) && isMarkNumber(Number(word), word.length, last));
  return MARK_WORDS.has(word);
}

/** Whether a word may be a mark, by its first letter's code, a small one, and how many it has; cheap, unlike that. */
export function mayBeMark(first: number, length: number): boolean {
  if (isDigitCode(first)) return true;
  return length <= LONGEST_MARK && (first === SMALL_U || first === SMALL_V || MARK_BEGINNINGS.has(first));
}

/** The same for a word of digits alone: how many they are, and their number. */
export function isMarkNumber(number: number, digits: number, last: boolean): boolean {
  if (last && digits === 4 && number >= 1000 && number < 2000) return true;
  return SIDES.has(number) && digits === String(number).length;
}

/** Whether a code is one of a digit. */
export function isDigitCode(code: number): boolean {
  return code >= 48 && code <= 57;
}

/** Whether a code is one of a small ASCII letter or a digit, of which words are made. */
export function isWordCode(code: number): boolean {
  return (code >= 97 && code <= 122) || isDigitCode(code);
}
