import { folderOf } from '../parcel/fileSource.ts';
import { channelInWords } from '../scene/channelTitles.ts';
import { isWeakWord, meaningOfWord, splitWords } from '../scene/channelWords.ts';
import { type Frame, type NameClass, type OpenName, SETTLED, setOf, WEAK_CONFIDENCE } from './nameClass.ts';
import { type HouseWords, readingOf } from './nameSpans.ts';

/** A bare name whose siblings follow a scheme is their base colour. */
const BARE = 0.8;
/** The one name of a folder that says nothing, beside others that hold no more than words for channels. */
const LEFT_OVER = 0.65;
/** A name that tells its channel as well as this is no bare name. */
const WELL_SPELLED = 0.9;

/**
 * Names that say nothing by themselves: a bare name is the base colour of the set that its siblings form; a
 * folder that is called like a channel tells what lies in it; an unknown word in the place of the channel
 * still tells the set.
 */
export function fillGaps(
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
  const shared = sharedStems(names, folders);
  const filled = classes.map((nameClass, i) => {
    const { words, folder } = names[i];
    const told = shared.size > 0 && shared.has(stemKey(names[i])) ? readFolder(folder, folders, house) : null;
    if (told) return { ...nameClass, set: words.join(' '), telling: '', packed: false, ...told };
    const bare = words.length > 0 ? channels.get(`${folder}\n${setOf(words, 0, 0)}`) : undefined;
    // `glow_sign` beside `glow_sign_n` and `glow_sign_rough`: a word for the thing, however much it may mean.
    const whole =
      bare !== undefined && bare.size > 1 && !bare.has('baseColor') && nameClass.set !== setOf(words, 0, 0);
    const named =
      !whole ||
      (nameClass.confidence >= WELL_SPELLED && !nameClass.readings.every(({ channel }) => bare.has(channel)));
    const unknown = unknownWord(names[i], frames, channels);
    // `base_wear` beside `base_color` and `base_normal`: the thing is called base.
    const alone = (channels.get(`${folder}\n${nameClass.set}`)?.size ?? 0) < 2;
    if (unknown && alone && nameClass.readings.length > 0)
      return { ...nameClass, readings: [], packed: false, confidence: 0, telling: '', ...unknown };
    if ((nameClass.readings.length > 0 && named) || nameClass.helper) return nameClass;
    if (bare && bare.size > 0) {
      if (bare.has('baseColor')) return nameClass;
      const why = `the bare name, beside ${[...bare].map(channelInWords).join(', ')} of the same name`;
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
    return unknown ? { ...nameClass, ...unknown } : nameClass;
  });
  return withLeftOver(names, filled);
}

/**
 * The one name of a folder that says nothing, beside names that hold no more than words for channels (`leaf`
 * beside `normal` and `spec`): it is the base colour that these lack, and tells what all of them are of.
 */
function withLeftOver(names: readonly OpenName[], classes: readonly NameClass[]): NameClass[] {
  const folders = new Map<string, number[]>();
  for (const [i, { folder }] of names.entries()) folders.set(folder, [...(folders.get(folder) ?? []), i]);
  const changed = [...classes];
  for (const members of folders.values()) {
    const read = members.filter((i) => !classes[i].helper && classes[i].readings.length > 0);
    const silent = members.filter((i) => !classes[i].helper && classes[i].readings.length === 0);
    const channels = new Set(read.flatMap((i) => classes[i].readings.map(({ channel }) => channel)));
    const [set, ...others] = new Set(silent.map((i) => classes[i].set));
    const bare = read.every((i) => classes[i].set === '') && channels.has('normal');
    if (!bare || channels.has('baseColor') || set === undefined || others.length > 0) continue;
    for (const i of read) changed[i] = { ...classes[i], set };
    for (const i of silent)
      changed[i] = {
        ...classes[i],
        readings: [readingOf('baseColor')],
        confidence: LEFT_OVER,
        evidence: ['no other image of its folder is left for the base colour'],
      };
  }
  return changed;
}

/** The set of a name one of whose words stands where its siblings name the channel; null where none does. */
function unknownWord(
  { words, folder }: OpenName,
  frames: Map<string, Frame>,
  channels: ReadonlyMap<string, ReadonlySet<string>>,
): Pick<NameClass, 'set' | 'evidence'> | null {
  for (let index = words.length - 1; index >= 0 && words.length > 1; index -= 1) {
    const set = setOf(words, index, index + 1);
    const frame = frames.get(`${folder}\n${set}\n${index === 0 ? 'first' : 'later'}`);
    const beside = channels.get(`${folder}\n${set}`);
    if (frame && frame.fillers.size > 1 && beside && beside.size > 1)
      return { set, evidence: [`"${words[index]}" stands where its siblings name the channel`] };
  }
  return null;
}

function stemKey({ folder, words }: OpenName): string {
  const named = words.filter((word) => !/^\d+$/.test(word));
  return `${folderOf(folder)}\n${(named.length > 0 ? named : words).join(' ')}`;
}

/**
 * Names that lie in several folders which are called like channels, by words that mean nothing else: there
 * the folder tells, whatever the name may mean (`BaseColor/metal.png`, `Normal/metal.png`).
 */
function sharedStems(names: readonly OpenName[], folders: ReadonlySet<string>): ReadonlySet<string> {
  const telling = new Set(
    [...folders].filter((folder) => {
      const word = folderWord(folder);
      return !isWeakWord(word) && meaningOfWord(word) !== undefined;
    }),
  );
  const places = new Map<string, Set<string>>();
  for (const name of names) {
    if (name.words.length === 0 || !telling.has(name.folder)) continue;
    const key = stemKey(name);
    places.set(key, (places.get(key) ?? new Set()).add(name.folder));
  }
  return new Set([...places].filter(([, list]) => list.size > 1).map(([key]) => key));
}

/** The folder's own name as one word, without numbers that bring folders into an order: `01_albedo`. */
function folderWord(path: string): string {
  return splitWords(path.slice(path.lastIndexOf('/') + 1))
    .filter((word) => !/^\d+$/.test(word))
    .join('');
}

/** `normal/hull.png` beside `roughness/hull.png`: the folder names the channel. */
function readFolder(
  folder: string,
  folders: ReadonlySet<string>,
  house: HouseWords,
): Partial<NameClass> | null {
  const meaningOf = (path: string) => {
    const joined = folderWord(path);
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
