import { distance } from 'fastest-levenshtein';
import { foldName } from '../links/fileIndex.ts';
import { splitWords } from '../scene/channelWords.ts';

/** What all names of one side (materials, or sets) have in common, so that the rest tells them apart. */
export interface NameSide {
  /** In how many names each word stands. */
  counts: ReadonlyMap<string, number>;
  names: number;
  /** Words that all names have, where every name has others beside them. */
  shared: ReadonlySet<string>;
  /** Words of the asset's own name, which tell nothing within it. */
  assetWords: ReadonlySet<string>;
}

/** How much two names are alike, and why in words. */
export interface Likeness {
  /** In 0..1. */
  score: number;
  reason: string;
  /**
   * The set's name says more than the material's: it may be meant for another one (`mast rope` for `mast`).
   */
  narrower: boolean;
}

const UNLIKE: Likeness = { score: 0, reason: '', narrower: false };

/** Words by which programs and people mark that something is a material or an image. */
const DECORATION = new Set(
  'm mi mat mats mtl material materials shd shader shaders sh sg shadinggroup t tx tex texture textures map maps inst instance img image pbr baked bake bk group grp'.split(
    ' ',
  ),
);
/** Names that programs give by themselves. */
const DEFAULT_WORDS = new Set(
  'material materials mat mtl default defaultmaterial lambert phong blinn standard surface shader initial shading group none unnamed untitled noname no name new color texture image images img node object mesh scene root model file'.split(
    ' ',
  ),
);

/** A name's words, without case and accents. */
export function identityWords(name: string): string[] {
  return splitWords(name).map(foldName);
}

/** A number without leading zeros, so that `001` and `1` meet; other words as they are. */
function plainNumber(word: string): string {
  return /^\d+$/.test(word) ? word.replace(/^0+(?=\d)/, '') : word;
}

/** True for names that programs give by themselves, such as `Material.001` or `lambert2`. */
export function isDefaultName(words: readonly string[]): boolean {
  return words.every((word) => DEFAULT_WORDS.has(word) || DECORATION.has(word) || /^\d+$/.test(word));
}

/** What the names on one side have in common, so that only what tells them apart counts. */
export function nameSide(names: readonly (readonly string[])[], assetWords: ReadonlySet<string>): NameSide {
  const counts = new Map<string, number>();
  for (const words of names)
    for (const word of new Set([...words, ...words.map(plainNumber)]))
      counts.set(word, (counts.get(word) ?? 0) + 1);
  const common = [...counts]
    .filter(([, count]) => count === names.length && names.length > 1)
    .map(([word]) => word);
  const shared = new Set(common);
  // `rope` beside `mast rope` is a name of its own, though all names hold it.
  const stands = names.some((words) =>
    withoutOnce(words, (word) => shared.has(word)).every((word) => DECORATION.has(word)),
  );
  return { counts, names: names.length, shared: stands ? new Set() : shared, assetWords };
}

/** A name with more and more of what tells nothing taken off. */
interface Form {
  /** The words joined, as they are written. */
  text: string;
  /** The same with plain numbers, words kept apart. */
  plain: string;
  sorted: string;
  cost: number;
  how: string;
  /** The number of a copy was taken off. */
  uncounted: boolean;
}

/** A name as it is compared; made once for each name. */
export interface ReadName {
  words: readonly string[];
  side: NameSide;
  forms: readonly Form[];
  /** Its words, numbers without leading zeros. */
  plain: ReadonlySet<string>;
}

/** A name's words, ready to be held against others. */
export function readName(words: readonly string[], side: NameSide): ReadName {
  return { words, side, forms: formsOf(words, side), plain: new Set(words.map(plainNumber)) };
}

function formsOf(words: readonly string[], side: NameSide): Form[] {
  const forms: Form[] = [];
  const add = (left: readonly string[], cost: number, how: string, uncounted = false) => {
    if (left.length === 0) return;
    const plain = left.map(plainNumber);
    forms.push({
      text: left.join(''),
      plain: plain.join(' '),
      sorted: [...plain].sort().join(' '),
      cost,
      how,
      uncounted,
    });
  };
  add(words, 0, '');
  const bare = trimmed(words, (word) => DECORATION.has(word));
  if (bare.length < words.length) add(bare, 0.02, 'but for what marks it as a material or image');
  // `Hull.001`: programs count copies behind the name.
  const uncounted =
    bare.length > 1 && COPY_NUMBER.test(bare[bare.length - 1])
      ? trimmed(bare.slice(0, -1), (word) => DECORATION.has(word))
      : bare;
  if (uncounted.length < bare.length) add(uncounted, COPY_COST, 'but for the number of a copy', true);
  if (side.names > 1) {
    const ownWords = withoutOnce(bare, (word) => side.shared.has(word));
    if (ownWords.length < bare.length) add(ownWords, 0.04, 'but for what all names share');
  }
  const foreign = withoutOnce(bare, (word) => side.assetWords.has(word) || side.shared.has(word));
  if (foreign.length < bare.length) add(foreign, 0.05, "but for the asset's own name");
  return forms;
}

const COPY_NUMBER = /^0\d\d$/;
/** A number more or less weighs enough that the name with the very number leads clearly. */
const COPY_COST = 0.14;

/** Without the first of each such word: what stands twice is meant once, the material `door` of the asset `door`. */
function withoutOnce(words: readonly string[], isSilent: (word: string) => boolean): string[] {
  const gone = new Set<string>();
  return words.filter((word) => !isSilent(word) || gone.has(word) || !gone.add(word));
}

/** Without such words at either end; never empty. */
function trimmed(words: readonly string[], isTrim: (word: string) => boolean): readonly string[] {
  let [start, end] = [0, words.length];
  while (start < end - 1 && isTrim(words[start])) start += 1;
  while (end > start + 1 && isTrim(words[end - 1])) end -= 1;
  return words.slice(start, end);
}

/** Other order of the same words. */
const REORDERED = 0.06;

/**
 * How much the name of a material and that of a set speak of one thing; see docs/evidence.md for the weights.
 */
export function likenessOf(material: ReadName, set: ReadName): Likeness {
  if (material.words.length === 0 || set.words.length === 0) return UNLIKE;
  let best = UNLIKE;
  for (const a of material.forms) {
    for (const b of set.forms) {
      const same = a.text === b.text || a.plain === b.plain;
      // With their numbers off, `part_001` and `part_002` would be one.
      if ((!same && a.sorted !== b.sorted) || (a.uncounted && b.uncounted)) continue;
      const score = 1 - a.cost - b.cost - (same ? 0 : REORDERED);
      const onlyNumber = /^\d+$/.test(a.text);
      const value = onlyNumber ? Math.min(score, NUMBER_ALONE) : score;
      if (value <= best.score) continue;
      const how = [...new Set([a.how, b.how])].filter(Boolean).join(', ');
      const what = likenessInWords(onlyNumber, a, same);
      best = { score: value, reason: [what, how].filter(Boolean).join(' '), narrower: false };
    }
  }
  if (best.score > 0) return best;
  return overlapOf(material, set);
}

/** A number is all that is left of both names. */
const NUMBER_ALONE = 0.6;
const WHOLE_OVERLAP = 0.62;
const CONTAINED = 0.16;
/** Names whose numbers differ speak of siblings. */
const OTHER_NUMBER = 0.15;

function likenessInWords(onlyNumber: boolean, a: Form, same: boolean) {
  if (onlyNumber) return `the same number ${a.text}`;
  return same ? 'the same name' : 'the same words in another order';
}

/** Names that share some words, each weighing the more the rarer it is. */
function overlapOf(
  { plain: first, side: materials }: ReadName,
  { plain: second, side: sets }: ReadName,
): Likeness {
  let [shared, all] = [0, 0];
  const common: string[] = [];
  const used = new Set<string>();
  for (const word of first) {
    const match = matchWord(word, second, used);
    const weight = Math.max(weightOf(word, materials), match ? weightOf(match.word, sets) : 0);
    all += weight;
    if (!match) continue;
    used.add(match.word);
    shared += weight * match.closeness;
    if (weight > FAINT_WEIGHT) common.push(match.word);
  }
  let narrower = false;
  for (const word of second) {
    if (used.has(word)) continue;
    const weight = weightOf(word, sets);
    all += weight;
    if (weight > FAINT_WEIGHT) narrower = true;
  }
  if (common.length === 0 || all === 0) return UNLIKE;
  const strayNumbers = numbersDiffer(first, second);
  const contained = used.size === second.size || used.size === first.size;
  const score = (WHOLE_OVERLAP * shared) / all + (contained ? CONTAINED : 0);
  const reason = `both hold "${common.join(' ')}"`;
  if (strayNumbers)
    return { score: score * OTHER_NUMBER, reason: `${reason}, but their numbers differ`, narrower };
  return { score, reason, narrower };
}

const FAINT_WEIGHT = 0.2;

function weightOf(word: string, { counts, names, shared, assetWords }: NameSide): number {
  if (DECORATION.has(word)) return 0.05;
  if (assetWords.has(word)) return 0.15;
  if (names < 2) return 0.8;
  if (shared.has(word)) return 0.05;
  const others = (counts.get(word) ?? 1) - 1;
  return others === names - 1 ? 0.5 : 1 - others / (names - 1);
}

/** The word itself, or one that is it in another form: plural, shortened, one letter off. */
function matchWord(
  word: string,
  others: ReadonlySet<string>,
  used: ReadonlySet<string>,
): { word: string; closeness: number } | null {
  if (others.has(word) && !used.has(word)) return { word, closeness: 1 };
  if (/^\d+$/.test(word)) return null;
  for (const other of others) {
    if (used.has(other) || /^\d+$/.test(other)) continue;
    const closeness = closenessOf(word, other);
    if (closeness > 0) return { word: other, closeness };
  }
  return null;
}

/** `ext` for `exterior`: the share of a word that its short form keeps at least. */
const SHORTEST = 0.37;

/** How much two different words are one in another form; 0 where they are not. */
function closenessOf(word: string, other: string): number {
  const [short, long] = word.length < other.length ? [word, other] : [other, word];
  if (`${short}s` === long || `${short}es` === long) return 0.95;
  if (short.length >= 3 && long.startsWith(short) && short.length >= SHORTEST * long.length) return 0.75;
  return short.length >= 5 && long.length - short.length <= 1 && distance(short, long) === 1 ? 0.8 : 0;
}

/**
 * Tells which of many names can be like a given one at all: those that share a form, a word, or a word in
 * another form. Looking them up costs the words of the name and, once for each word, those of all names.
 */
export function nameIndex(names: readonly ReadName[]): (name: ReadName) => ReadonlySet<number> {
  const byToken = new Map<string, number[]>();
  const vocabulary = new Set<string>();
  const add = (token: string, index: number) => {
    const list = byToken.get(token);
    if (list) list.push(index);
    else byToken.set(token, [index]);
  };
  for (const [index, { forms, plain }] of names.entries()) {
    for (const token of new Set(forms.flatMap(tokensOf))) add(token, index);
    for (const word of plain) {
      vocabulary.add(word);
      add(`word ${word}`, index);
    }
  }
  const closeWords = new Map<string, string[]>();
  const closeTo = (word: string): string[] => {
    let close = closeWords.get(word);
    if (!close) {
      const number = /^\d+$/.test(word);
      close = [...vocabulary].filter(
        (other) => other === word || (!number && !/^\d+$/.test(other) && closenessOf(word, other) > 0),
      );
      closeWords.set(word, close);
    }
    return close;
  };
  return ({ forms, plain }) => {
    const positions = new Set<number>();
    for (const token of forms.flatMap(tokensOf))
      for (const index of byToken.get(token) ?? []) positions.add(index);
    // A word that marks a material or an image makes no name alike.
    for (const word of plain)
      if (!DECORATION.has(word))
        for (const other of closeTo(word))
          for (const index of byToken.get(`word ${other}`) ?? []) positions.add(index);
    return positions;
  };
}

function tokensOf({ text, plain, sorted }: Form): string[] {
  return [`text ${text}`, `plain ${plain}`, `sorted ${sorted}`];
}

/** Both have numbers, and none in common. */
function numbersDiffer(first: ReadonlySet<string>, second: ReadonlySet<string>): boolean {
  const [a, b] = [first, second].map((words) => [...words].filter((word) => /^\d+$/.test(word)));
  return a.length > 0 && b.length > 0 && !a.some((number) => b.includes(number));
}
