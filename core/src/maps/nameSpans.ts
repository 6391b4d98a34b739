import {
  isOrderPair,
  isPictureWord,
  isShortForm,
  isUtilityWord,
  isWeakWord,
  JOINABLE_WORDS,
  meaningOfMisspelt,
  meaningOfWord,
  meaningsOfLetter,
  packedWord,
  type WordMeaning,
} from '../scene/channelWords.ts';
import type { ChannelName, Component, NormalDirection } from '../scene/material.ts';

/** One channel that an image can feed, and how. */
export interface MapReading {
  channel: ChannelName;
  component: Component;
  invert: boolean;
  normalY: NormalDirection | null;
}

/**
 * How much words tell by themselves: `packed` spells several channels, `word` means nothing else, `weak` also
 * describes things, `joined` is part of a longer word, `letter` is one letter, `helper` names a baked map
 * that no material reads.
 */
export type SpanKind = 'packed' | 'order' | 'word' | 'weak' | 'joined' | 'letter' | 'helper';

/** Words of a name that may tell what the image is. */
export interface NameSpan {
  /** Words `start` to `end`, the end not included. */
  start: number;
  end: number;
  kind: SpanKind;
  /** The words themselves, separated by spaces. */
  text: string;
  /** Empty for helpers, and for letters, which are settled beside their siblings. */
  readings: MapReading[];
  /** What stays of a word that held the telling part. */
  rest: string;
  /** Confidence, in 0..1, where no sibling speaks for or against it. */
  alone: number;
}

/** Words of one's own house and what they mean, such as `farbe` for baseColor. */
export type HouseWords = Readonly<Record<string, ChannelName>>;

const SURE = 0.95;
const CUSTOM = 0.8;
const DOUBTFUL = 0.6;
/** A short form that ends a name. */
const ENDING = 0.82;

/** Every part of a name that may tell the channel, in no order. */
export function spansOf(words: readonly string[], house: HouseWords = {}): NameSpan[] {
  const spans: NameSpan[] = [];
  for (let start = 0; start < words.length; start += 1) {
    for (let end = start + 1; end <= Math.min(words.length, start + 4); end += 1) {
      const span = spanAt(words, start, end, house);
      if (span) spans.push(span.kind === 'packed' ? withPackedWords(words, span) : span);
    }
    // A word that means something as a whole is not taken apart: `normalmap`, `albedoalpha`.
    const whole = spans.some((span) => span.start === start && span.end === start + 1);
    const joined = whole ? null : joinedAt(words, start);
    if (joined) spans.push(joined);
  }
  return [...spans, ...letterSpans(words, spans)];
}

/**
 * Letters that may name the channel: the last one; two at either end, and one at the front, where no other
 * word at the end does.
 */
function letterSpans(words: readonly string[], others: readonly NameSpan[]): NameSpan[] {
  const last = words.length - 1;
  const spelled = () =>
    meaningsOfLetter(words[last]).length > 0 ||
    others.some(
      ({ end, kind, text }) =>
        end === words.length && kind !== 'order' && (kind !== 'weak' || isShortForm(text)),
    );
  const ends = last > 0 ? [0, last] : [last];
  return ends.flatMap((start) => {
    const text = words[start] ?? '';
    if (meaningsOfLetter(text).length === 0) return [];
    if (text.length > 1 && (last === 0 || meaningOfWord(text) !== undefined)) return [];
    if (start < last && spelled()) return [];
    return [{ start, end: start + 1, kind: 'letter' as const, text, readings: [], rest: '', alone: 0 }];
  });
}

/** Words before a packed order that only say that it is one: `packed mask`. */
const OF_PACKED = new Set('packed pack packing mask masks mix mixed combined channels multi'.split(' '));

/** The same span with such words before it; one is left for the set. */
function withPackedWords(words: readonly string[], span: NameSpan): NameSpan {
  let { start } = span;
  while (start > 1 && OF_PACKED.has(words[start - 1])) start -= 1;
  return { ...span, start };
}

function spanAt(words: readonly string[], start: number, end: number, house: HouseWords): NameSpan | null {
  const parts = words.slice(start, end);
  const word = parts.join('');
  const span = { start, end, text: parts.join(' '), rest: '' };
  if (Object.hasOwn(house, word))
    return { ...span, kind: 'word', readings: [readingOf(house[word])], alone: SURE };
  if (isHelper(parts, start, words.length)) return { ...span, kind: 'helper', readings: [], alone: SURE };
  const packed = packedWord(word);
  if (
    packed &&
    (parts.length === 1 ||
      parts.every((part) => part.length === 1 || part === 'ao') ||
      !packed.usual ||
      word.length > 5)
  ) {
    const readings = packed.readings.map(([component, channel]) => plainReading(channel, component));
    if (packed.usual)
      return { ...span, kind: 'packed', readings, alone: parts.some(isWeakWord) ? CUSTOM : SURE };
    // `ORDp` is two words by its capitals.
    if (parts.length === 1 || (parts.every((part) => part.length < 3) && parts.some(isOrderPair)))
      return { ...span, kind: 'order', readings, alone: 0.5 };
  }
  const pair = parts.length === 1 ? letterPair(word) : null;
  if (pair) return { ...span, kind: 'order', readings: pair, alone: 0.5 };
  const spelled = spelledOrder(parts);
  if (spelled) return { ...span, kind: 'packed', ...spelled };
  if (word.length === 1) return null;
  // `color mat` is the colour of a material, and no misspelt `color map`.
  const spelledWell = parts.some((part) => part.length < 3 || part === 'mat');
  const meaning = meaningOfWord(word) ?? (spelledWell ? undefined : meaningOfMisspelt(word));
  // Joined words must be telling together: `base color`, not `rope` `n` `or`.
  if (!meaning || (parts.length > 1 && word.length < 6 && parts.some((part) => part.length === 1)))
    return null;
  const nameSpan = withDirection(words, { ...span, ...meaningSpan(word, meaning) });
  const ends = nameSpan.end === words.length && start > 0 && isShortForm(word);
  return ends ? { ...nameSpan, alone: Math.max(nameSpan.alone, ENDING) } : nameSpan;
}

function meaningSpan(word: string, meaning: WordMeaning): Pick<NameSpan, 'kind' | 'readings' | 'alone'> {
  // What is not spelled as it should be may be another word.
  const weak = isWeakWord(word) || meaningOfWord(word) === undefined;
  return { kind: weak ? 'weak' : 'word', readings: [readingOf(meaning)], alone: weak ? DOUBTFUL : SURE };
}

/** `normal` followed by `opengl` is one telling part. */
function withDirection(words: readonly string[], span: NameSpan): NameSpan {
  const [reading] = span.readings;
  const next = words[span.end];
  if (reading?.channel !== 'normal' || reading.normalY || !next || !Object.hasOwn(DIRECTIONS, next))
    return span;
  return {
    ...span,
    end: span.end + 1,
    text: `${span.text} ${next}`,
    readings: [{ ...reading, normalY: DIRECTIONS[next] }],
  };
}

const DIRECTIONS: Record<string, NormalDirection> = {
  gl: 'Y+',
  ogl: 'Y+',
  opengl: 'Y+',
  yplus: 'Y+',
  yup: 'Y+',
  dx: 'Y-',
  directx: 'Y-',
  yminus: 'Y-',
  ydown: 'Y-',
};

/** Normals of the world or the object, and other maps that are no material input. */
function isHelper(parts: readonly string[], start: number, count: number): boolean {
  const word = parts.join('');
  if (/^(normal(world|object|ws|os)|(world|object|ws|os)normal)$/.test(word)) return true;
  return isPictureWord(word) || (isUtilityWord(word) && (start > 0 || parts.length > 1 || count === 1));
}

const VECTORS = new Set<ChannelName>([
  'baseColor',
  'specularColor',
  'emission',
  'sheenColor',
  'subsurface',
  'normal',
]);

/** A channel read in the usual way: colours and normals from r, g and b, scalars from r. */
export function plainReading(
  channel: ChannelName,
  component?: Component,
  rest: Partial<MapReading> = {},
): MapReading {
  return {
    channel,
    component: component ?? (VECTORS.has(channel) ? 'rgb' : 'r'),
    invert: false,
    normalY: null,
    ...rest,
  };
}

/** How an image is read that is named after a meaning. */
export function readingOf(meaning: WordMeaning): MapReading {
  switch (meaning) {
    case 'normalYPlus':
      return plainReading('normal', 'rgb', { normalY: 'Y+' });
    case 'normalYMinus':
      return plainReading('normal', 'rgb', { normalY: 'Y-' });
    case 'bumpOrNormal':
      return plainReading('bump');
    case 'transparency':
      return plainReading('opacity', 'r', { invert: true });
    default:
      return plainReading(meaning);
  }
}

const PARTS: readonly Component[] = ['r', 'g', 'b', 'a'];
const SCALARS = new Set<WordMeaning>([
  'occlusion',
  'roughness',
  'metalness',
  'height',
  'opacity',
  'glossiness',
]);

/**
 * Several channels spelled out: `occlusion roughness metallic` in r, g, b; two by the customs of their pairs.
 */
function spelledOrder(parts: readonly string[]): { readings: MapReading[]; alone: number } | null {
  if (parts.length < 2) return null;
  const meanings: WordMeaning[] = [];
  for (const part of parts) {
    const meaning = part.length > 1 ? meaningOfWord(part) : undefined;
    if (!meaning || meanings.includes(meaning)) return null;
    meanings.push(meaning);
  }
  if (parts.length > 2) {
    if (!meanings.every((meaning) => SCALARS.has(meaning))) return null;
    return {
      readings: meanings.map((meaning, i) => plainReading(meaning as ChannelName, PARTS[i])),
      alone: SURE,
    };
  }
  const pair = customaryPair(meanings[0], meanings[1]);
  // `rough metal` describes a thing; `metallic roughness` does not.
  const weak = parts.some(isWeakWord) && !parts.includes('alpha') && !parts.includes('gloss');
  if (pair) return { readings: pair, alone: weak ? 0.5 : CUSTOM };
  if (!SCALARS.has(meanings[0]) || !SCALARS.has(meanings[1])) return null;
  return {
    readings: meanings.map((meaning, i) => plainReading(meaning as ChannelName, PARTS[i])),
    alone: 0.5,
  };
}

/** Two letters for two channels, `mr` or `ms`; pixels have to bear them out. */
function letterPair(word: string): MapReading[] | null {
  if (!/^(mr|rm|ms|mg|sg|ro|or|ar|ra|mo|om)$/.test(word)) return null;
  const meanings = [...word].map((letter): WordMeaning => LETTER_PAIRS[letter]);
  if (word === 'sg') return customaryPair('specularColor', 'glossiness');
  return (
    customaryPair(meanings[0], meanings[1]) ??
    meanings.map((meaning, i) => plainReading(meaning as ChannelName, PARTS[i]))
  );
}

const LETTER_PAIRS: Record<string, WordMeaning> = {
  m: 'metalness',
  r: 'roughness',
  s: 'glossiness',
  g: 'glossiness',
  o: 'occlusion',
  a: 'occlusion',
};

/** A picture or vectors, and what rides in its alpha. */
const RIDES_IN_ALPHA = new Set([
  'specularColor glossiness',
  'normal height',
  'normal roughness',
  'normal glossiness',
  'baseColor glossiness',
  'baseColor occlusion',
]);

function customaryPair(first: WordMeaning, second: WordMeaning): MapReading[] | null {
  const pair = `${first} ${second}`;
  // glTF's own pair: green and blue.
  if (pair === 'metalness roughness' || pair === 'roughness metalness')
    return [plainReading('roughness', 'g'), plainReading('metalness', 'b')];
  if (pair === 'metalness glossiness')
    return [plainReading('metalness', 'r'), plainReading('glossiness', 'a')];
  if (RIDES_IN_ALPHA.has(pair))
    return [plainReading(first as ChannelName), plainReading(second as ChannelName, 'a')];
  if (pair === 'baseColor opacity' || pair === 'baseColor transparency')
    return [plainReading('baseColor'), plainReading('opacity', 'a')];
  return null;
}

/** A long word joined to the name without a separator: `hullroughness`. */
function joinedAt(words: readonly string[], i: number): NameSpan | null {
  const word = words[i];
  if (word.length < 7) return null;
  for (const [existing, meaning] of JOINABLE_WORDS) {
    if (word.length <= existing.length) continue;
    const ends = word.endsWith(existing);
    if (!ends && !word.startsWith(existing)) continue;
    const rest = ends ? word.slice(0, -existing.length) : word.slice(existing.length);
    return {
      start: i,
      end: i + 1,
      kind: 'joined',
      text: existing,
      readings: [readingOf(meaning)],
      rest,
      alone: CUSTOM,
    };
  }
  return null;
}
