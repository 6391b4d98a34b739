import { stemOf } from '../parcel/fileSource.ts';
import { meaningOfWord, splitWords } from '../scene/channelWords.ts';

/** A file name as words, and the marks that were taken from it. */
export interface SplitName {
  /** In lower case; numbers that tell siblings apart among them. */
  words: readonly string[];
  /**
   * Resolution, version, tile, copy and encoding marks, in order; they tell nothing about channel or object.
   */
  marks: readonly string[];
}

/** Words that tell a version, a copy, a level of detail or an encoding. */
const MARK_WORDS =
  'copy final lo hi low high lowres highres lowpoly highpoly srgb linear raw lin acescg png jpg jpeg tga tif exr';
const MARK_WORD = new Set(MARK_WORDS.split(' '));
/** Sides of images as they are written in names. */
const SIDES = new Set(
  '64 128 256 512 768 1024 1536 2048 3072 4096 6144 8192 16384 1000 2000 4000 8000'.split(' '),
);
const BOUNDED = '(?<![\\p{L}\\p{N}])';
const BOUNDED_END = '(?![\\p{L}\\p{N}])';
const MARKS = new RegExp(
  `${BOUNDED}(\\d{1,2}k|\\d{3,5}x\\d{3,5}|v\\d{1,4}|u\\d+[ _-]?v\\d+|\\d{1,2}bit|g(?:10|18|22|24))${BOUNDED_END}|\\(\\d+\\)|<udim>|<uvtile>|%\\(udim\\)d`,
  'giu',
);
const NUMBER = new RegExp(`${BOUNDED}\\d{2,5}${BOUNDED_END}`, 'gu');
const TILE = /^1\d{3}$/;

/**
 * Splits names in the light of each other. A number that could be a resolution (`512`) stays a word where
 * siblings that are otherwise equal have numbers that are none (`part_511`, `part_512`).
 */
export function splitNames(paths: readonly string[]): SplitName[] {
  const spaced = paths.map((path) => stemOf(path).normalize('NFC').replaceAll('_', ' '));
  const counted = countedPatterns(spaced);
  return withoutBitDepths(spaced.map((stem) => splitOne(stem, counted)));
}

const BIT_DEPTH = /^(8|16|32)$/;

/**
 * `height16`, `Displacement_32`: a number of bits behind the word for the channel, at the end of a name.
 * Beside siblings of other numbers (`color_8`, `color_9`) it counts parts.
 */
function withoutBitDepths(names: SplitName[]): SplitName[] {
  const stemOfWords = ({ words }: SplitName) => words.slice(0, -1).join(' ');
  const numbered = new Set(
    names.flatMap((name) => {
      const last = name.words.at(-1) ?? '';
      return /^\d+$/.test(last) && !BIT_DEPTH.test(last) ? [stemOfWords(name)] : [];
    }),
  );
  return names.map((name) => {
    const [channel = '', last = ''] = name.words.slice(-2);
    const marked = BIT_DEPTH.test(last) && meaningOfWord(channel) !== undefined;
    if (!marked || numbered.has(stemOfWords(name))) return name;
    return { words: name.words.slice(0, -1), marks: [...name.marks, last] };
  });
}

/** Patterns of names, `#` where a number stands, whose numbers count parts. */
function countedPatterns(stems: readonly string[]): ReadonlySet<string> {
  const counted = new Set<string>();
  for (const stem of stems) {
    for (const { 0: number, index } of stem.matchAll(NUMBER)) {
      if (number.length < 3 || isSide(number) || TILE.test(number)) continue;
      counted.add(patternAt(stem, index, number));
    }
  }
  return counted;
}

function patternAt(stem: string, index: number, number: string): string {
  return `${stem.slice(0, index)}#${stem.slice(index + number.length)}`.toLowerCase();
}

function isSide(number: string): boolean {
  return SIDES.has(number.replace(/^0+/, ''));
}

function splitOne(stem: string, counted: ReadonlySet<string>): SplitName {
  const marks: string[] = [];
  const take = (mark: string) => {
    marks.push(mark.toLowerCase());
    return ' ';
  };
  const numbers = stem.replace(NUMBER, (number, index: number) => {
    if (counted.has(patternAt(stem, index, number))) return number;
    const last = stem.slice(index + number.length).trim() === '' || stem[index - 1] === '.';
    return isSide(number) || (TILE.test(number) && (last || /^[ .-]/.test(stem.slice(index + 4))))
      ? take(number)
      : number;
  });
  const words: string[] = [];
  const plain = splitWords(numbers.replace(MARKS, (mark) => take(mark)));
  for (let i = 0; i < plain.length; i += 1) {
    const word = plain[i];
    // `Color2K`: the resolution is joined to the word before it.
    if (plain[i + 1] === 'k' && /^([1-9]|16)$/.test(word)) {
      marks.push(`${word}k`);
      i += 1;
    } else if (word === 's' && plain[i + 1] === 'rgb') {
      marks.push('srgb');
      i += 1;
    } else if (word === 'lod' && /^\d$/.test(plain[i + 1] ?? '')) {
      marks.push(`lod${plain[i + 1]}`);
      i += 1;
    } else if (MARK_WORD.has(word) && plain.length > 1) marks.push(word);
    else words.push(word);
  }
  return { words, marks };
}
