import type { MapReading, NameSpan } from './nameSpans.ts';
import type { SplitName } from './nameWords.ts';

/** What an image's name says, given the names beside it. */
export interface NameClass {
  path: string;
  /** The common part that images of one material share, in lower case; '' when nothing remains. */
  set: string;
  /** One reading for a plain image, several for a packed one, none when the name says nothing. */
  readings: MapReading[];
  packed: boolean;
  /**
   * In 0..1: 0.95 for words that mean nothing else, 0.8 for what siblings settle, 0.6 and less for guesses.
   */
  confidence: number;
  evidence: string[];
  /** The words that told the channel; '' where none did. */
  telling: string;
  /** Marks of resolution, version and copy that were taken from the name. */
  marks: readonly string[];
  /** A baked helper map that no material reads. */
  helper: boolean;
  /** What a letter or word may mean as well, where no sibling settles it; pixels may. */
  alternatives?: readonly MapReading[];
}

/** The confidence of what siblings settle. */
export const SETTLED = 0.8;
/** The confidence of what is likely and no more. */
export const WEAK_CONFIDENCE = 0.6;

/** What fills one frame: names that are equal but for the telling part. */
export interface Frame {
  /** Distinct telling parts, by what they mean. */
  fillers: Map<string, NameSpan>;
}

/** A name that is being read. */
export interface OpenName extends SplitName {
  path: string;
  folder: string;
  spans: NameSpan[];
}

/** Words that only say that this is an image. */
const FILLERS = new Set(['map', 'tex', 'texture', 'maps', 'textures']);

/** What is left of a name's words for its set, without those that told the channel. */
export function setOf(words: readonly string[], start: number, end: number, rest = ''): string {
  return [...words.slice(0, start), rest, ...words.slice(end)]
    .filter((word) => word !== '' && !FILLERS.has(word))
    .join(' ');
}
