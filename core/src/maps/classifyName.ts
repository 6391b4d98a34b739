import { stemOf } from '../parcel/fileSource.ts';
import {
  isUtilityWord,
  isWeakWord,
  JOINABLE_WORDS,
  meaningOfWord,
  meaningsOfLetter,
  packedOrder,
  splitWords,
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

/** What an image's name says, given the names beside it. */
export interface NameClass {
  path: string;
  /** The common part that images of one material share, in lower case; '' when nothing remains. */
  set: string;
  /** One reading for a plain image, several for a packed one, none when the name says nothing. */
  readings: MapReading[];
  packed: boolean;
  /** In 0..1: 0.95 for words that mean nothing else, 0.8 for what siblings settle, 0.6 and less for guesses. */
  confidence: number;
  evidence: string[];
}

/** Confidence of a word that also describes things, where no sibling of the set speaks for it. */
const WEAK_CONFIDENCE = 0.6;
const SETTLED = 0.8;
const SURE = 0.95;

/** Parts of a name that tell resolution, version, tile or copy, and nothing about the channel. */
const NOISE =
  /(?<![\p{L}\p{N}])(\d{1,2}k|\d{3,5}(x\d{3,5})?|v\d{1,4}|u\d+[_-]?v\d+|copy|final|lo|hi|low|high|lowres|highres|\d{1,2}bit|srgb|linear|raw|lin|acescg)(?![\p{L}\p{N}])|\(\d+\)/giu;

/** Names without their resolution, version, tile and copy marks. */
export function stripNoise(stem: string): string {
  const spaced = stem.replaceAll('_', ' ').replace(/<udim>|<uvtile>|%\(udim\)d/gi, ' ');
  return spaced.replace(NOISE, ' ').replace(/\s+/g, ' ').trim();
}

/** Words of names that were split lately; the same names are classified with every look at an asset. */
const splitLately = new Map<string, string[]>();
const KEPT_SPLITS = 50_000;

function wordsOf(path: string): string[] {
  const stem = stemOf(path);
  let words = splitLately.get(stem);
  if (!words) {
    words = splitWords(stripNoise(stem));
    if (splitLately.size >= KEPT_SPLITS) splitLately.clear();
    splitLately.set(stem, words);
  }
  return words;
}

/** Classifies images by name, each in the light of its siblings. Order of the result is that of the paths. */
export function classifyNames(paths: readonly string[]): NameClass[] {
  const splits = paths.map(wordsOf);
  const classes = settleLeads(
    paths.map((path, i) => classifyByWords(path, splits[i])),
    splits,
  );
  const schemes = letterSchemes(splits);
  const channelsOfSet = new Map<string, Set<string>>();
  for (const { set, readings } of classes) {
    const known = channelsOfSet.get(set) ?? new Set();
    channelsOfSet.set(set, known);
    for (const { channel } of readings) known.add(channel);
  }
  return classes.map((found, i) => {
    if (found.readings.length === 0) {
      const split = splitLetter(splits[i]);
      const scheme = split && schemes.get(split.set);
      return split && scheme ? classifyLetter(paths[i], split, scheme, channelsOfSet.get(split.set)) : found;
    }
    // A doubtful word is believed where another image of the same set names another channel.
    const others = channelsOfSet.get(found.set) ?? new Set();
    if (found.confidence === WEAK_CONFIDENCE && others.size > 1) {
      return { ...found, confidence: SETTLED, evidence: [...found.evidence, 'other images of the set follow the same scheme'] };
    }
    return found;
  });
}

/**
 * `coat roughness` at the head of a name is the roughness of a coat where the siblings speak of a coat, and doubtful
 * where none do.
 */
function settleLeads(classes: NameClass[], splits: readonly string[][]): NameClass[] {
  const sets = new Set(classes.map(({ set }) => set));
  return classes.map((found, i) => {
    if (found.set !== '' || found.packed || found.confidence < SURE || splits[i].length < 2) return found;
    const shorter = classifyByWords(found.path, splits[i].slice(1));
    if (shorter.readings.length === 0 || !isWeakWord(splits[i][0])) return found;
    if (!sets.has(splits[i][0])) return { ...found, confidence: WEAK_CONFIDENCE };
    const set = [splits[i][0], shorter.set].filter(Boolean).join(' ');
    return { ...shorter, set, confidence: SETTLED, evidence: [...shorter.evidence, `"${splits[i][0]}" is what the set is called`] };
  });
}

interface Span {
  start: number;
  end: number;
  readings: MapReading[];
  word: string;
  packed: boolean;
  confidence: number;
  /** What stays of a word that held the telling part. */
  rest?: string;
}

function classifyByWords(path: string, words: string[]): NameClass {
  const nothing = (why: string): NameClass => ({ path, set: words.join(' '), readings: [], packed: false, confidence: 0, evidence: [why] });
  const utility = helperWord(words);
  if (utility) return { ...nothing(`"${utility.word}" names a baked helper map that no channel reads`), set: withoutSpan(words, utility.start, utility.end) };
  const span = bestSpan(words) ?? joinedSpan(words);
  if (!span) return nothing('the name holds no word for a channel');
  const { readings, packed, confidence, word } = span;
  const says = packed ? `spells ${readings.map(({ component, channel }) => `${component} ${channel}`).join(', ')}` : `means ${meaningInWords(readings[0])}`;
  const doubt = confidence < SETTLED ? ['the word may also describe the thing itself'] : [];
  return {
    path,
    set: withoutSpan(words, span.start, span.end, span.rest),
    readings,
    packed,
    confidence,
    evidence: [`"${word}" in the name ${says}`, ...doubt],
  };
}

function meaningInWords({ channel, invert, normalY }: MapReading): string {
  return `${channel}${invert ? ', inverted' : ''}${normalY ? `, ${normalY}` : ''}`;
}

function withoutSpan(words: readonly string[], start: number, end: number, rest = ''): string {
  return [...words.slice(0, start), rest, ...words.slice(end)].filter((word) => word !== '' && !FILLERS.has(word)).join(' ');
}

/** Words that only say that this is an image. */
const FILLERS = new Set(['map', 'tex', 'texture', 'maps']);

/** Normals of the world or the object, and other maps that are no material input. */
function helperWord(words: readonly string[]): { word: string; start: number; end: number } | null {
  for (let i = 0; i < words.length; i += 1) {
    const pair = words.slice(i, i + 2).join('');
    const triple = words.slice(i, i + 3).join('');
    if (isUtilityWord(triple)) return { word: triple, start: i, end: i + 3 };
    if (words.length > i + 1 && (isUtilityWord(pair) || /^(normal(world|object|ws|os)|(world|object|ws|os)normal)$/.test(pair)))
      return { word: pair, start: i, end: i + 2 };
    if (i > 0 && isUtilityWord(words[i])) return { word: words[i], start: i, end: i + 1 };
  }
  return null;
}

/** The telling part of a name: packed orders first, then words that mean nothing else, then doubtful ones; the last of equals. */
function bestSpan(words: readonly string[]): Span | null {
  let best: Span | null = null;
  for (let end = words.length; end > 0; end -= 1) {
    for (let count = Math.min(3, end); count > 0; count -= 1) {
      const span = readSpan(words, end - count, end);
      if (!span) continue;
      if (!best || rankOf(span) > rankOf(best)) best = span;
      if (count > 1) end -= count - 1;
      break;
    }
  }
  return best;
}

function rankOf({ packed, confidence }: Span): number {
  return confidence + (packed ? 1 : 0);
}

function readSpan(words: readonly string[], start: number, end: number): Span | null {
  const parts = words.slice(start, end);
  const word = parts.join('');
  const shown = parts.join(' ');
  const order = packedOrder(word);
  if (order && (parts.length === 1 || parts.every((part) => part.length === 1))) {
    return { start, end, word: shown, packed: true, confidence: SURE, readings: order.map((channel, i) => reading(channel, PARTS[i])) };
  }
  const spelled = spelledOrder(parts);
  if (spelled) return { start, end, word: shown, packed: true, ...spelled };
  if (word.length < 2) return null;
  const meaning = meaningOfWord(word);
  if (!meaning) return null;
  // Joined words must be telling together: `base color`, not `rope` `n` `or`.
  if (parts.length > 1 && word.length < 6 && parts.some((part) => part.length === 1)) return null;
  const weak = isWeakWord(word);
  const next = words[end];
  const found = readingOf(meaning);
  let last = end;
  if (found.channel === 'normal' && !found.normalY && next && DIRECTIONS[next]) {
    found.normalY = DIRECTIONS[next];
    last = end + 1;
  }
  return { start, end: last, word: words.slice(start, last).join(' '), packed: false, confidence: weak ? WEAK_CONFIDENCE : SURE, readings: [found] };
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
const PARTS: Component[] = ['r', 'g', 'b', 'a'];
const COLOUR_LIKE = new Set<ChannelName>(['baseColor', 'specularColor', 'emission', 'sheenColor', 'subsurface', 'normal']);

function reading(channel: ChannelName, component?: Component, rest: Partial<MapReading> = {}): MapReading {
  return { channel, component: component ?? (COLOUR_LIKE.has(channel) ? 'rgb' : 'r'), invert: false, normalY: null, ...rest };
}

/** Several channels spelled out: `occlusion roughness metallic` in r, g, b; two by the customs of their pairs. */
function spelledOrder(parts: readonly string[]): { readings: MapReading[]; confidence: number } | null {
  const meanings = parts.map((part) => (part.length > 1 ? meaningOfWord(part) : undefined));
  if (parts.length < 2 || meanings.some((meaning) => !meaning) || new Set(meanings).size !== parts.length) return null;
  const scalar = new Set<WordMeaning | undefined>(['occlusion', 'roughness', 'metalness', 'height', 'opacity', 'glossiness']);
  if (parts.length === 3) {
    if (!meanings.every((meaning) => scalar.has(meaning))) return null;
    return { readings: meanings.map((meaning, i) => reading(meaning as ChannelName, PARTS[i])), confidence: SURE };
  }
  const [first, second] = meanings;
  // `rough metal` describes a thing; `metallic roughness` does not.
  if (parts.some(isWeakWord) && !(parts.includes('alpha') || parts.includes('gloss'))) return null;
  // glTF's own pair: green and blue.
  if (first === 'metalness' && second === 'roughness') return { readings: [reading('roughness', 'g'), reading('metalness', 'b')], confidence: SETTLED };
  if (first === 'metalness' && second === 'glossiness') return { readings: [reading('metalness', 'r'), reading('glossiness', 'a')], confidence: SETTLED };
  if (first === 'specularColor' && second === 'glossiness')
    return { readings: [reading('specularColor', 'rgb'), reading('glossiness', 'a')], confidence: SETTLED };
  if (first === 'baseColor' && (second === 'opacity' || second === 'transparency')) {
    return { readings: [reading('baseColor', 'rgb'), reading('opacity', 'a')], confidence: SETTLED };
  }
  if (first === 'normal' && second === 'height') return { readings: [reading('normal', 'rgb'), reading('height', 'a')], confidence: SETTLED };
  if (scalar.has(first) && scalar.has(second)) {
    return { readings: [reading(first as ChannelName, 'r'), reading(second as ChannelName, 'g')], confidence: 0.5 };
  }
  return null;
}

/** A long word joined to the name without a separator: `hullroughness`. */
function joinedSpan(words: readonly string[]): Span | null {
  for (let i = words.length - 1; i >= 0; i -= 1) {
    const word = words[i];
    const known = JOINABLE_WORDS.find(([known]) => word.length > known.length && (word.endsWith(known) || word.startsWith(known)));
    if (!known) continue;
    const rest = word.endsWith(known[0]) ? word.slice(0, -known[0].length) : word.slice(known[0].length);
    return { start: i, end: i + 1, word: known[0], packed: false, confidence: SETTLED, readings: [readingOf(known[1])], rest };
  }
  return null;
}

function readingOf(meaning: WordMeaning): MapReading {
  switch (meaning) {
    case 'normalYPlus':
      return reading('normal', 'rgb', { normalY: 'Y+' });
    case 'normalYMinus':
      return reading('normal', 'rgb', { normalY: 'Y-' });
    case 'bumpOrNormal':
      return reading('bump');
    case 'transparency':
      return reading('opacity', 'r', { invert: true });
    default:
      return reading(meaning);
  }
}

/** Per set the single letters that end its names. */
function letterSchemes(splits: readonly string[][]): Map<string, Set<string>> {
  const schemes = new Map<string, Set<string>>();
  for (const words of splits) {
    const split = splitLetter(words);
    if (!split) continue;
    schemes.set(split.set, (schemes.get(split.set) ?? new Set()).add(split.letter));
  }
  return schemes;
}

function splitLetter(words: readonly string[]): { set: string; letter: string } | null {
  const letter = words.at(-1);
  if (letter?.length !== 1 || words.length < 2 || meaningsOfLetter(letter).length === 0) return null;
  return { set: words.slice(0, -1).join(' '), letter };
}

function classifyLetter(path: string, { set, letter }: { set: string; letter: string }, scheme: Set<string>, spelled: Set<string> | undefined): NameClass {
  const meanings = settleLetter(letter, scheme, spelled);
  const alone = scheme.size < 2 && (spelled?.size ?? 0) === 0;
  if (alone) {
    return { path, set, readings: [], packed: false, confidence: 0, evidence: [`"${letter}" alone may mean ${meanings.join(' or ')}; no sibling settles it`] };
  }
  return {
    path,
    set,
    readings: [readingOf(meanings[0])],
    packed: false,
    confidence: meanings.length === 1 ? SETTLED : 0.5,
    evidence: [
      `single letters name the channel here (${[...scheme].sort().join(', ')})`,
      meanings.length === 1 ? `"${letter}" means ${meanings[0]}` : `"${letter}" may mean ${meanings.join(' or ')}`,
    ],
  };
}

/** Letters with two meanings are settled by the letters and words beside them, where these leave one. */
function settleLetter(letter: string, scheme: Set<string>, spelled: Set<string> = new Set()): WordMeaning[] {
  const meanings = [...meaningsOfLetter(letter)];
  if (meanings.length === 1) return meanings;
  const taken = new Set<string>(spelled);
  for (const other of scheme) {
    const sure = meaningsOfLetter(other);
    if (other !== letter && sure.length === 1) taken.add(sure[0]);
  }
  // A metalness scheme has roughness beside it; a colour letter beside `d` leaves height; gloss makes `s` specular.
  if (letter === 'm' && taken.has('roughness')) return ['metalness'];
  if (letter === 'd' && (scheme.has('c') || scheme.has('b') || taken.has('baseColor'))) return ['height'];
  if (letter === 'd') return ['baseColor'];
  if (letter === 'b' && (scheme.has('c') || scheme.has('d') || scheme.has('a'))) return scheme.has('n') ? ['baseColor', 'bump'] : ['bump'];
  if (letter === 'b' && (scheme.has('r') || scheme.has('m') || scheme.has('n'))) return ['baseColor'];
  if (letter === 'a' && (scheme.has('c') || scheme.has('d') || scheme.has('b'))) return ['occlusion', 'opacity'];
  if (letter === 'a' && (scheme.has('r') || scheme.has('n'))) return scheme.has('o') ? ['baseColor'] : ['baseColor', 'occlusion'];
  if (letter === 's' && taken.has('glossiness')) return ['specularColor'];
  if (letter === 's' && taken.has('roughness')) return ['specularColor'];
  const left = meanings.filter((meaning) => !taken.has(meaning));
  return left.length > 0 ? left : meanings;
}
