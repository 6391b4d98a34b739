import { folderOf } from '../parcel/fileSource.ts';
import { channelInWords } from '../scene/channelTitles.ts';
import { meaningOfWord, meaningsOfLetter, splitWords, type WordMeaning } from '../scene/channelWords.ts';
import {
  type HouseWords,
  type MapReading,
  type NameSpan,
  readingOf,
  type SpanKind,
  spansOf,
} from './nameSpans.ts';
import { type SplitName, splitNames } from './nameWords.ts';

export type { HouseWords, MapReading } from './nameSpans.ts';

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
  /** What a single letter may mean as well, where no sibling settles it; pixels may. */
  alternatives?: readonly MapReading[];
}

/** What names are read by beside the words of the trade. */
export interface NameOptions {
  /** Words of one's own house. */
  house?: HouseWords;
}

const SETTLED = 0.8;
const WEAK_CONFIDENCE = 0.6;
/** Two letters for two channels, which pixels have to bear out. */
const PAIR_OF_LETTERS = 0.7;
/** What siblings add to the confidence of a word that also describes things. */
const BESIDE_SIBLINGS = 0.85;
/** A bare name whose siblings follow a scheme is their base colour. */
const BARE = 0.8;
/** A name that tells its channel as well as this is no bare name. */
const WELL_SPELLED = 0.9;
/** A letter that only other sets speak for, or that stands behind a word for a thing. */
const LONE_LETTER = 0.65;

/** How much each kind of telling part counts beside siblings; one further sibling counts 1. */
const KIND_WEIGHT: Record<SpanKind, number> = {
  packed: 0.9,
  helper: 0.85,
  word: 0.8,
  joined: 0.5,
  weak: 0.4,
  order: 0.15,
  letter: 0.1,
};
const MOST_SIBLINGS = 3;
/** The telling part stands last more often than not. */
const LAST_BONUS = 0.15;
/** The same word in the same place in other sets of the parcel. */
const SCHEME_BONUS = 0.5;
/** The place where most names of the parcel have their telling part. */
const PLACE_BONUS = 0.3;

/** What fills one frame: names that are equal but for the telling part. */
interface Frame {
  /** Distinct telling parts, by what they mean. */
  fillers: Map<string, NameSpan>;
}

interface OpenName extends SplitName {
  path: string;
  folder: string;
  spans: NameSpan[];
}

/** Classifies images by name, all together. Order of the result is that of the paths. */
export function classifyNames(paths: readonly string[], { house = {} }: NameOptions = {}): NameClass[] {
  const splits = splitNames(paths);
  const spansByName = new Map<string, NameSpan[]>();
  const names = paths.map((path, i): OpenName => {
    const key = splits[i].words.join(' ');
    const spans = spansByName.get(key) ?? spansOf(splits[i].words, house);
    spansByName.set(key, spans);
    return { ...splits[i], path, folder: folderOf(path), spans };
  });
  const frames = gatherFrames(names);
  const uses = gatherUses(names);
  const place = usualPlace(names, frames, uses);
  const chosen = names.map((name) => chooseSpan(name, frames, uses, place));
  const classes = names.map((name, i) => readName(name, chosen[i], frames));
  return fillGaps(names, classes, frames, house);
}

function frameOf({ folder, words }: OpenName, { start, end, rest }: NameSpan): string {
  return `${folder}\n${setOf(words, start, end, rest)}\n${start === 0 ? 'first' : 'later'}`;
}

function gatherFrames(names: readonly OpenName[]): Map<string, Frame> {
  const frames = new Map<string, Frame>();
  for (const name of names) {
    for (const span of name.spans) {
      const key = frameOf(name, span);
      const frame = frames.get(key) ?? { fillers: new Map() };
      frames.set(key, frame);
      frame.fillers.set(meaningKey(span), span);
    }
  }
  return frames;
}

/** Equal for telling parts that mean the same: `col` and `color` are no two channels. */
function meaningKey({ kind, text, readings }: NameSpan): string {
  if (readings.length === 0) return `${kind} ${text}`;
  return readings.map(({ channel, component }) => `${component} ${channel}`).join(' ');
}

/** The sets beside which each telling word stands at an end of the name, as words. */
function gatherUses(names: readonly OpenName[]): Map<string, Map<string, ReadonlySet<string>>> {
  const uses = new Map<string, Map<string, ReadonlySet<string>>>();
  for (const name of names) {
    for (const span of name.spans) {
      const key = useKey(name, span);
      const sets = uses.get(key) ?? new Map();
      uses.set(key, sets);
      const set = setOf(name.words, span.start, span.end, span.rest);
      if (!sets.has(set)) sets.set(set, new Set(set.split(' ')));
    }
  }
  return uses;
}

/**
 * How many other things the same word stands beside in the same place, counted up to {@link MOST_SIBLINGS}.
 * `bolt` and `bolt n` are one thing: what they share is its name.
 */
function countElsewhere(name: OpenName, span: NameSpan, uses: Uses): number {
  const setWords = new Set(setOf(name.words, span.start, span.end, span.rest).split(' '));
  let count = 0;
  for (const other of uses.get(useKey(name, span))?.values() ?? []) {
    if (isWithin(setWords, other) || isWithin(other, setWords)) continue;
    count += 1;
    if (count === MOST_SIBLINGS) break;
  }
  return count;
}

function isWithin(part: ReadonlySet<string>, whole: ReadonlySet<string>): boolean {
  for (const word of part) if (!whole.has(word)) return false;
  return true;
}

type Uses = ReturnType<typeof gatherUses>;
type Place = 'only' | 'first' | 'last' | 'within';

function placeOf({ words }: OpenName, { start, end }: NameSpan): Place {
  if (end === words.length) return start === 0 ? 'only' : 'last';
  return start === 0 ? 'first' : 'within';
}

function useKey(name: OpenName, span: NameSpan): string {
  return `${placeOf(name, span)} ${span.text}`;
}

function usualPlace(names: readonly OpenName[], frames: Map<string, Frame>, uses: Uses): Place {
  const counts = { only: 0, first: 0, last: 0, within: 0 };
  for (const name of names) {
    const span = chooseSpan(name, frames, uses, null);
    if (span && siblingsOf(name, span, frames) > 0) counts[placeOf(name, span)] += 1;
  }
  return counts.first > counts.last ? 'first' : 'last';
}

/** Other channels that names have which are equal but for this part. */
function siblingsOf(name: OpenName, span: NameSpan, frames: Map<string, Frame>): number {
  return (frames.get(frameOf(name, span))?.fillers.size ?? 1) - 1;
}

/**
 * The part of the name that tells the channel: what siblings differ in, before what a word means by itself.
 */
function chooseSpan(
  name: OpenName,
  frames: Map<string, Frame>,
  uses: Uses,
  usual: Place | null,
): NameSpan | null {
  let best: NameSpan | null = null;
  let bestScore = 0;
  for (const span of name.spans) {
    const siblings = Math.min(siblingsOf(name, span, frames), MOST_SIBLINGS);
    const elsewhere = countElsewhere(name, span, uses);
    // A letter tells nothing by itself, and an order that may be a word only beside siblings.
    if (siblings === 0 && (span.kind === 'order' || (span.kind === 'letter' && elsewhere === 0))) continue;
    const where = placeOf(name, span);
    const places =
      (where === 'last' || where === 'only' ? LAST_BONUS : 0) +
      (usual !== null && where === usual ? PLACE_BONUS : 0);
    // Of spans that mean the same, the longer one: `base color`, not `color`.
    const length = 0.02 * (span.end - span.start);
    const score = KIND_WEIGHT[span.kind] + siblings + SCHEME_BONUS * elsewhere + places + length;
    if (score >= bestScore) [best, bestScore] = [span, score];
  }
  // `T_GlowSign_D` alone: a word for a thing, and a letter where the channel stands.
  if (best?.kind === 'weak' && bestScore < 1)
    return name.spans.find(({ kind, start }) => kind === 'letter' && start > 0) ?? best;
  return best;
}

/** Words that only say that this is an image. */
const FILLERS = new Set(['map', 'tex', 'texture', 'maps', 'textures']);

function setOf(words: readonly string[], start: number, end: number, rest = ''): string {
  return [...words.slice(0, start), rest, ...words.slice(end)]
    .filter((word) => word !== '' && !FILLERS.has(word))
    .join(' ');
}

function readName(name: OpenName, span: NameSpan | null, frames: Map<string, Frame>): NameClass {
  const { path, words, marks } = name;
  const base = { path, readings: [], packed: false, confidence: 0, telling: '', marks, helper: false };
  if (!span) {
    const lone = name.spans.find(({ kind }) => kind === 'letter');
    const why = lone
      ? `"${lone.text}" alone may mean ${meaningsOfLetter(lone.text).join(' or ')}; no sibling settles it`
      : 'the name holds no word for a channel';
    return { ...base, set: lone ? setOf(words, lone.start, lone.end) : words.join(' '), evidence: [why] };
  }
  const set = setOf(words, span.start, span.end, span.rest);
  if (span.kind === 'helper')
    return {
      ...base,
      set,
      helper: true,
      evidence: [`"${span.text}" names a baked helper map that no channel reads`],
    };
  const frame = frames.get(frameOf(name, span)) as Frame;
  if (span.kind === 'letter') return { ...base, set, ...readLetter(span.text, frame), telling: span.text };
  const siblings = frame.fillers.size - 1;
  const headless =
    set === '' &&
    words.length > 1 &&
    span.start === 0 &&
    span.end === words.length &&
    isDoubtfulHead(words, siblings);
  const beside = span.kind === 'order' && span.text.length < 3 ? PAIR_OF_LETTERS : BESIDE_SIBLINGS;
  const confidence = confidenceOf(headless, siblings, span, beside);
  const { readings } = span;
  const packed = readings.length > 1;
  const says = packed
    ? `spells ${readings.map(({ component, channel }) => `${component} ${channelInWords(channel)}`).join(', ')}`
    : `means ${meaningInWords(readings[0])}`;
  const scheme =
    siblings > 0 && span.alone < SETTLED ? ['other images of the set follow the same scheme'] : [];
  const doubt = confidence < SETTLED ? ['the word may also describe the thing itself'] : [];
  return {
    ...base,
    set,
    readings,
    packed,
    confidence,
    telling: span.text,
    evidence: [`"${span.text}" in the name ${says}`, ...scheme, ...doubt],
  };
}

function confidenceOf(headless: boolean, siblings: number, span: NameSpan, beside: number) {
  if (headless) return WEAK_CONFIDENCE;
  return siblings > 0 ? Math.max(span.alone, beside) : span.alone;
}

/**
 * `coat roughness` as a whole name is the roughness of a coat, or a channel of its own; siblings settle it.
 */
function isDoubtfulHead(words: readonly string[], siblings: number): boolean {
  return (
    siblings === 0 &&
    meaningOfWord(words[0]) !== undefined &&
    meaningOfWord(words.slice(1).join('')) !== undefined
  );
}

function meaningInWords({ channel, invert, normalY }: MapReading): string {
  return `${channelInWords(channel)}${invert ? ', inverted' : ''}${normalY ? `, ${normalY}` : ''}`;
}

function readLetter(
  letter: string,
  { fillers }: Frame,
): Pick<NameClass, 'readings' | 'confidence' | 'evidence' | 'alternatives'> {
  const letters = new Set<string>();
  const spelled = new Set<string>();
  for (const { kind, text, readings } of fillers.values()) {
    if (kind === 'letter') letters.add(text);
    else for (const { channel } of readings) spelled.add(channel);
  }
  const meanings = resolveLetter(letter, letters, spelled);
  const sure = meanings.length === 1;
  const scheme = letters.size > 1 || spelled.size > 0;
  return {
    readings: [readingOf(meanings[0])],
    alternatives: meanings.slice(1).map(readingOf),
    // Without a sibling of its own set, the letters of other sets alone speak for it.
    confidence: letterConfidence(sure, scheme),
    evidence: [
      `single letters name the channel here (${[...letters].sort().join(', ')})`,
      sure ? `"${letter}" means ${meanings[0]}` : `"${letter}" may mean ${meanings.join(' or ')}`,
    ],
  };
}

function letterConfidence(sure: boolean, scheme: boolean): number {
  if (!sure) return 0.5;
  return scheme ? SETTLED : LONE_LETTER;
}

/** Letters with two meanings are settled by the letters and words beside them, where these leave one. */
function resolveLetter(
  letter: string,
  scheme: ReadonlySet<string>,
  spelled: ReadonlySet<string>,
): WordMeaning[] {
  const meanings = [...meaningsOfLetter(letter)];
  if (meanings.length === 1) return meanings;
  const taken = new Set<string>(spelled);
  for (const other of scheme) {
    const sure = meaningsOfLetter(other);
    if (other !== letter && sure.length === 1) taken.add(sure[0]);
  }
  const coloured = scheme.has('c') || taken.has('baseColor');
  // A metalness scheme has roughness beside it; a colour letter beside `d` leaves height; gloss makes `s`
  // specular, and so does a diffuse.
  if (letter === 'm' && (taken.has('roughness') || taken.has('glossiness')) && !taken.has('metalness'))
    return ['metalness'];
  if (letter === 'd' && (coloured || scheme.has('b'))) return ['height'];
  if (letter === 'd') return ['baseColor'];
  if (letter === 'b' && (coloured || scheme.has('d') || scheme.has('a')))
    return scheme.has('n') ? ['baseColor', 'bump'] : ['bump'];
  if (letter === 'b' && (scheme.has('r') || scheme.has('m') || scheme.has('n'))) return ['baseColor'];
  if (letter === 'a' && (coloured || scheme.has('d') || scheme.has('b'))) return ['occlusion', 'opacity'];
  if (letter === 'a' && scheme.has('o')) return ['baseColor'];
  if (letter === 'a' && (scheme.has('r') || scheme.has('n'))) return ['baseColor', 'occlusion'];
  if (
    letter === 's' &&
    (scheme.has('d') || taken.has('glossiness') || taken.has('roughness') || taken.has('metalness'))
  )
    return ['specularColor'];
  const left = meanings.filter((meaning) => !taken.has(meaning));
  return left.length > 0 ? left : meanings;
}

/**
 * Names that say nothing by themselves: a bare name is the base colour of the set that its siblings form; a
 * folder that is called like a channel tells what lies in it; an unknown word in the place of the channel
 * still tells the set.
 */
function fillGaps(
  names: readonly OpenName[],
  classes: NameClass[],
  frames: Map<string, Frame>,
  house: HouseWords,
): NameClass[] {
  const channels = new Map<string, Set<string>>();
  for (const [i, { set, readings }] of classes.entries()) {
    const key = `${names[i].folder}\n${set}`;
    const existing = channels.get(key) ?? new Set();
    channels.set(key, existing);
    for (const { channel } of readings) existing.add(channel);
  }
  const folders = new Set(names.map(({ folder }) => folder));
  return classes.map((nameClass, i) => {
    const { words, folder } = names[i];
    const bare = words.length > 0 ? channels.get(`${folder}\n${setOf(words, 0, 0)}`) : undefined;
    // `glow_sign` beside `glow_sign_n` and `glow_sign_rough`: a word for the thing, however much it may mean.
    const whole =
      bare !== undefined && bare.size > 1 && !bare.has('baseColor') && nameClass.set !== setOf(words, 0, 0);
    const named =
      !whole ||
      (nameClass.confidence >= WELL_SPELLED && !nameClass.readings.every(({ channel }) => bare.has(channel)));
    if ((nameClass.readings.length > 0 && named) || nameClass.helper) return nameClass;
    if (bare && bare.size > 0) {
      if (bare.has('baseColor')) return nameClass;
      const why = `the bare name, beside ${[...bare].join(', ')} of the same name`;
      const set = setOf(words, 0, 0);
      return {
        ...nameClass,
        set,
        telling: '',
        packed: false,
        readings: [readingOf('baseColor')],
        confidence: bare.size > 1 ? BARE : 0.7,
        evidence: [why],
      };
    }
    const byFolder = readFolder(folder, folders, house);
    if (byFolder) return { ...nameClass, set: words.join(' '), ...byFolder };
    for (let index = words.length - 1; index >= 0 && words.length > 1; index -= 1) {
      const set = setOf(words, index, index + 1);
      const frame = frames.get(`${folder}\n${set}\n${index === 0 ? 'first' : 'later'}`);
      const beside = channels.get(`${folder}\n${set}`);
      if (frame && frame.fillers.size > 1 && beside && beside.size > 1)
        return {
          ...nameClass,
          set,
          evidence: [`"${words[index]}" stands where its siblings name the channel`],
        };
    }
    return nameClass;
  });
}

/** `normal/hull.png` beside `roughness/hull.png`: the folder names the channel. */
function readFolder(
  folder: string,
  folders: ReadonlySet<string>,
  house: HouseWords,
): Partial<NameClass> | null {
  const meaningOf = (path: string) => {
    const joined = splitWords(path.slice(path.lastIndexOf('/') + 1)).join('');
    return Object.hasOwn(house, joined)
      ? house[joined]
      : (meaningOfWord(joined) ?? meaningOfWord(joined.replace(/s$/, '')));
  };
  const meaning = meaningOf(folder);
  if (!meaning) return null;
  const parent = folderOf(folder);
  const others = [...folders].filter(
    (other) => other !== folder && folderOf(other) === parent && meaningOf(other) !== undefined,
  );
  return {
    readings: [readingOf(meaning)],
    confidence: others.length > 0 ? SETTLED : WEAK_CONFIDENCE,
    evidence: [`its folder is called ${folder.slice(folder.lastIndexOf('/') + 1)}`],
  };
}
