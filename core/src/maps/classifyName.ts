import { folderOf } from '../parcel/fileSource.ts';
import { channelInWords } from '../scene/channelTitles.ts';
import {
  isUtilityWord,
  isWeakWord,
  meaningOfWord,
  meaningsOfLetter,
  type WordMeaning,
} from '../scene/channelWords.ts';
import { fillGaps } from './fillGaps.ts';
import { joinNumbered } from './joinNumbered.ts';
import { type Frame, type NameClass, type OpenName, SETTLED, setOf, WEAK_CONFIDENCE } from './nameClass.ts';
import {
  type HouseWords,
  type MapReading,
  type NameSpan,
  readingOf,
  type SpanKind,
  spansOf,
} from './nameSpans.ts';
import { splitNames } from './nameWords.ts';

export type { NameClass } from './nameClass.ts';
export type { HouseWords, MapReading } from './nameSpans.ts';

/** What names are read by beside the words of the trade. */
export interface NameOptions {
  /** Words of one's own house. */
  house?: HouseWords;
}

/** Two letters for two channels, which pixels have to bear out. */
const PAIR_OF_LETTERS = 0.7;
/** What siblings add to the confidence of a word that also describes things. */
const BESIDE_SIBLINGS = 0.85;
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
/** Two letters where siblings have such too are no order of components. */
const CODE_BONUS = 0.1;
/** The telling part stands last more often than not. */
const LAST_BONUS = 0.15;
/** The same word in the same place in other sets of the parcel. */
const SCHEME_BONUS = 0.5;
/** The place where most names of the parcel have their telling part. */
const PLACE_BONUS = 0.3;

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
  const bare = new Set(names.map(({ folder, words }) => bareKey(folder, setOf(words, 0, 0))));
  const chosen = names.map((name) => chooseSpan(name, frames, uses, place) ?? normalBesideBare(name, bare));
  const classes = names.map((name, i) => readName(name, chosen[i], frames));
  return joinNumbered(names, fillGaps(names, classes, frames, house));
}

function bareKey(folder: string, set: string): string {
  return `${folder}\n${set}`;
}

/** `pipe_n` beside `pipe`: the commonest of all schemes, in two names. Pixels have to bear it out. */
function normalBesideBare({ folder, words, spans }: OpenName, bare: ReadonlySet<string>): NameSpan | null {
  const letter = spans.find(({ kind, end }) => kind === 'letter' && end === words.length);
  if (!letter || letter.start === 0 || meaningsOfLetter(letter.text).join() !== 'normal') return null;
  return bare.has(bareKey(folder, setOf(words, letter.start, letter.end))) ? letter : null;
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
 * Whether letters before the name or of two signs are a scheme: three names and more that differ in nothing
 * else, one of which is a normal, or two with the letters of MTL.
 */
function isScheme(name: OpenName, span: NameSpan, frames: Map<string, Frame>): boolean {
  const fillers = [...(frames.get(frameOf(name, span))?.fillers.values() ?? [])];
  const normal = fillers.some(({ kind, text, readings }) =>
    kind === 'letter'
      ? meaningsOfLetter(text).includes('normal')
      : readings.some(({ channel }) => channel === 'normal'),
  );
  const ofMtl = fillers.filter(({ kind, text }) => kind === 'letter' && /^k[dse]$/.test(text));
  return (normal && fillers.length > 2) || ofMtl.length > 1;
}

/**
 * Whether an outer word of several belongs to the thing: `roof_metal_rough` beside `roof_metal_color`, whose
 * name says no order, or `wood_base_color` beside `wood_base_normal`. Only words that also describe things
 * are doubted; a coat has a roughness of its own.
 */
function holdsThing(name: OpenName, span: NameSpan, frames: Map<string, Frame>): boolean {
  const { kind, start, end } = span;
  if (kind !== 'packed' && kind !== 'word') return false;
  const orders = [...(frames.get(frameOf(name, span))?.fillers.values() ?? [])]
    .filter((other) => other.kind === kind)
    .map(({ text }) => text.split(' '));
  return name.spans.some((inner) => {
    const first = inner.start === start + 1 && inner.end === end;
    const last = inner.start === start && inner.end === end - 1;
    if (!first && !last) return false;
    const outer = name.words[first ? start : end - 1];
    if (!isWeakWord(outer) || (kind === 'word' && outer === 'coat')) return false;
    const alike = orders.filter((words) => words[first ? 0 : words.length - 1] === outer);
    // No channel comes twice in a set, so that a word in two orders of it is none.
    return (kind === 'packed' && alike.length > 1) || siblingsOf(name, inner, frames) >= alike.length;
  });
}

/**
 * Whether a word is the beginning or the end of an order that the whole name spells, and not all that is
 * told of a thing called like the rest: `crate_metallic_roughness`, where nothing else is a `crate_metallic`.
 */
function isWithinOrder(name: OpenName, span: NameSpan, frames: Map<string, Frame>): boolean {
  const order = name.spans.some(
    ({ kind, start, end, alone }) =>
      kind === 'packed' &&
      alone >= SETTLED &&
      end - start > span.end - span.start &&
      (end === span.end || start === span.start),
  );
  return order && siblingsOf(name, span, frames) === 0;
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
    // A letter tells nothing by itself, and an order that may be a word only beside siblings; `curvature` may
    // be a thing.
    const whole = isUtilityWord(name.words.join('')) && span.end - span.start === name.words.length;
    if (siblings === 0 && (span.kind === 'order' || whole || (span.kind === 'letter' && elsewhere === 0)))
      continue;
    if (holdsThing(name, span, frames) || isWithinOrder(name, span, frames)) continue;
    const where = placeOf(name, span);
    const code = span.kind === 'letter' && span.text.length > 1;
    if ((code || (span.kind === 'letter' && where === 'first')) && !isScheme(name, span, frames)) continue;
    const places =
      (where === 'last' || where === 'only' ? LAST_BONUS : 0) +
      (usual !== null && where === usual ? PLACE_BONUS : 0);
    // Of spans that mean the same, the longer one: `base color`, not `color`.
    const length = 0.02 * (span.end - span.start);
    const kind = KIND_WEIGHT[span.kind] + (code ? CODE_BONUS : 0);
    const score = kind + siblings + SCHEME_BONUS * elsewhere + places + length;
    if (score >= bestScore) [best, bestScore] = [span, score];
  }
  // `T_GlowSign_D` alone: a word for a thing, and a letter where the channel stands.
  if (best?.kind === 'weak' && bestScore < 1)
    return name.spans.find(({ kind, start }) => kind === 'letter' && start > 0) ?? best;
  return best;
}

function readName(name: OpenName, span: NameSpan | null, frames: Map<string, Frame>): NameClass {
  const { path, words, marks } = name;
  const base = { path, readings: [], packed: false, confidence: 0, telling: '', marks, helper: false };
  if (!span) {
    const lone = name.spans.find(
      ({ kind, text, end }) => kind === 'letter' && text.length === 1 && end === words.length,
    );
    const why = lone
      ? `"${lone.text}" alone may mean ${meaningsOfLetter(lone.text).map(channelInWords).join(' or ')}; no sibling settles it`
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
    // Many call a normal a bump; what feeds it tells.
    ...(!packed && readings[0].channel === 'bump' && { alternatives: [readingOf('normal')] }),
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
      sure
        ? `"${letter}" means ${channelInWords(meanings[0])}`
        : `"${letter}" may mean ${meanings.map(channelInWords).join(' or ')}`,
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
  // As MTL has it.
  if (letter === 'd' && scheme.has('kd')) return ['opacity'];
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
