import { stemOf } from '../parcel/fileSource.ts';
import { meaningOfWord, meaningsOfLetter, packedOrder, splitWords, type WordMeaning } from '../scene/channelWords.ts';
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
  /** In 0..1. Words tell for sure, single letters do so only beside siblings. */
  confidence: number;
  evidence: string[];
}

/** Parts of a name that tell resolution, version, tile or copy, and nothing about the channel. */
const NOISE = /(?<![\p{L}\p{N}])(\d{1,2}k|\d{3,5}(x\d{3,5})?|v\d{1,4}|u\d+[_-]?v\d+|copy|final|lo|hi|low|high)(?![\p{L}\p{N}])|\(\d+\)/giu;

/** Names without their resolution, version, tile and copy marks. */
export function stripNoise(stem: string): string {
  const spaced = stem.replaceAll('_', ' ');
  return spaced.replace(NOISE, ' ').replace(/\s+/g, ' ').trim();
}

/** Classifies images by name, each in the light of its siblings. Order of the result is that of the paths. */
export function classifyNames(paths: readonly string[]): NameClass[] {
  const classes = paths.map(classifyByWords);
  const letters = new Map<string, Set<string>>();
  const splits = paths.map((path) => splitLetter(path));
  splits.forEach((split) => {
    if (!split) return;
    const known = letters.get(split.set) ?? new Set();
    letters.set(split.set, known.add(split.letter));
  });
  return classes.map((found, i) => {
    const split = splits[i];
    if (found.readings.length > 0 || !split) return found;
    const scheme = letters.get(split.set) ?? new Set();
    if (scheme.size < 2) return found;
    return classifyLetter(paths[i], split, scheme);
  });
}

function classifyByWords(path: string): NameClass {
  const words = splitWords(stripNoise(stemOf(path)));
  for (let end = words.length; end > 0; end -= 1) {
    for (let count = Math.min(3, end); count > 0; count -= 1) {
      const start = end - count;
      const word = words.slice(start, end).join('');
      const order = packedOrder(word) ?? (count > 1 ? spelledOrder(words.slice(start, end)) : undefined);
      const meaning = word.length > 1 ? meaningOfWord(word) : undefined;
      if (!order && !meaning) continue;
      const rest = [...words.slice(0, start), ...words.slice(end)].join(' ');
      if (order) return packedClass(path, rest, word, order);
      return wordClass(path, rest, words.slice(start, end).join(' '), meaning as WordMeaning);
    }
  }
  return { path, set: words.join(' '), readings: [], packed: false, confidence: 0, evidence: ['the name holds no word for a channel'] };
}

/** `occlusion roughness metallic` spelled out in full. */
function spelledOrder(words: string[]): ChannelName[] | undefined {
  if (words.length !== 3) return undefined;
  const meanings = words.map((word) => (word.length > 1 ? meaningOfWord(word) : undefined));
  const scalar = new Set<WordMeaning | undefined>(['occlusion', 'roughness', 'metalness', 'height', 'opacity']);
  return meanings.every((meaning) => scalar.has(meaning)) && new Set(meanings).size === 3 ? (meanings as ChannelName[]) : undefined;
}

function packedClass(path: string, set: string, word: string, order: readonly ChannelName[]): NameClass {
  const parts: Component[] = ['r', 'g', 'b', 'a'];
  return {
    path,
    set,
    readings: order.map((channel, i) => ({ channel, component: parts[i], invert: false, normalY: null })),
    packed: true,
    confidence: 0.95,
    evidence: [`"${word}" in the name spells ${order.map((channel, i) => `${parts[i]} ${channel}`).join(', ')}`],
  };
}

function wordClass(path: string, set: string, word: string, meaning: WordMeaning): NameClass {
  return { path, set, readings: [readingOf(meaning)], packed: false, confidence: 0.95, evidence: [`"${word}" in the name means ${meaning}`] };
}

function readingOf(meaning: WordMeaning): MapReading {
  const plain = (channel: ChannelName, rest: Partial<MapReading> = {}): MapReading => ({
    channel,
    component: COLOUR_LIKE.has(channel) ? 'rgb' : 'r',
    invert: false,
    normalY: null,
    ...rest,
  });
  switch (meaning) {
    case 'normalYPlus':
      return plain('normal', { normalY: 'Y+' });
    case 'normalYMinus':
      return plain('normal', { normalY: 'Y-' });
    case 'bumpOrNormal':
      return plain('bump');
    case 'transparency':
      return plain('opacity', { invert: true });
    default:
      return plain(meaning);
  }
}

const COLOUR_LIKE = new Set<ChannelName>(['baseColor', 'specularColor', 'emission', 'sheenColor', 'subsurface', 'normal']);

function splitLetter(path: string): { set: string; letter: string } | null {
  const words = splitWords(stripNoise(stemOf(path)));
  const letter = words.at(-1);
  if (letter?.length !== 1 || words.length < 2 || meaningsOfLetter(letter).length === 0) return null;
  return { set: words.slice(0, -1).join(' '), letter };
}

function classifyLetter(path: string, { set, letter }: { set: string; letter: string }, scheme: Set<string>): NameClass {
  const meanings = settleLetter(letter, scheme);
  return {
    path,
    set,
    readings: [readingOf(meanings[0])],
    packed: false,
    confidence: meanings.length === 1 ? 0.8 : 0.5,
    evidence: [
      `single letters name the channel here (${[...scheme].sort().join(', ')})`,
      meanings.length === 1 ? `"${letter}" means ${meanings[0]}` : `"${letter}" may mean ${meanings.join(' or ')}`,
    ],
  };
}

/** Letters with two meanings are settled by the letters beside them, where these leave one. */
function settleLetter(letter: string, scheme: Set<string>): WordMeaning[] {
  const meanings = [...meaningsOfLetter(letter)];
  if (meanings.length === 1) return meanings;
  const taken = new Set<WordMeaning>();
  for (const other of scheme) {
    const sure = meaningsOfLetter(other);
    if (other !== letter && sure.length === 1) taken.add(sure[0]);
  }
  // A diffuse or colour letter beside it leaves `d` as height; a metalness scheme has roughness beside it.
  if (letter === 'm' && taken.has('roughness')) return ['metalness'];
  if (letter === 'd' && (scheme.has('c') || scheme.has('b'))) return ['height'];
  if (letter === 's' && taken.has('glossiness')) return ['specularColor'];
  const left = meanings.filter((meaning) => !taken.has(meaning));
  return left.length > 0 ? left : meanings;
}
