import { fileName } from '../parcel/fileSource.ts';
import { once } from '../remember.ts';
import { unmangled } from './mangledNames.ts';
import { hashOfBareStem, hashOfSpelling, hashOfText, stemStretch } from './nameHash.ts';
import { isMark, isWordCode } from './nameMarks.ts';
import { createChannelJudge } from './otherChannel.ts';
import { PathTable } from './pathTable.ts';
import { groupTiles, type TileSet } from './tiles.ts';

/** Paths by key. Nearly all keys have one path, which is kept without a list around it. */
export class PathLists {
  private readonly lists = new Map<string, string | string[]>();

  add(key: string, path: string): void {
    const existing = this.lists.get(key);
    if (existing === undefined) this.lists.set(key, path);
    else if (typeof existing === 'string') this.lists.set(key, [existing, path]);
    else existing.push(path);
  }

  get(key: string): readonly string[] {
    const existing = this.lists.get(key);
    if (existing === undefined) return [];
    return typeof existing === 'string' ? [existing] : existing;
  }
}

/**
 * Files by the ways in which a written path can name them; built once for a parcel. Each way is built when
 * first asked for.
 */
export interface FileIndex {
  paths: ReadonlySet<string>;
  /** Content by path, where known: equal content is no doubt. */
  hashOf(path: string): string | undefined;
  /**
   * Files whose name may be meant: the same stem but for case, accents, resolution, version and separators,
   * of whatever type.
   */
  ofSameStem(name: string): readonly string[];
  /** Files whose name was taken for another encoding on the way, by the stem that it may have had. */
  ofMangledStem(name: string): readonly string[];
  byFoldedPath(): ReadonlyMap<string, string>;
  /** Files with the same {@link spellingKey}, where the stem has one. */
  ofSameSpelling(stem: string): readonly string[];
  /** Whether two stems name different channels, as `_m` and `_d` do. */
  isOtherChannel(first: string, second: string): boolean;
  tileSets(): ReadonlyMap<string, TileSet>;
}

/** Stems of fewer letters have no close spelling; the first letters are taken to be right. */
const LEAST_LETTERS = 5;
const FIRST_LETTERS = 3;

/** A file by its path, and by its content where that is known. */
export interface IndexedFile {
  path: string;
  sha256?: string;
}

/** Indexes files by path, name and content, so that each search takes the time of its hits. */
export function buildFileIndex(files: Iterable<string | IndexedFile>): FileIndex {
  const paths = new Set<string>();
  const hashes = new Map<string, string>();
  for (const file of files) {
    const path = typeof file === 'string' ? file : file.path;
    if (typeof file !== 'string' && file.sha256) hashes.set(path, file.sha256);
    paths.add(path);
  }
  const list = once(() => [...paths]);
  const byBareStem = once(() => new PathTable(list(), bareHash));
  const bySpelling = once(() => new PathTable(list(), spellingHash));
  const byMangledStem = once(() => {
    const lists = new PathLists();
    for (const path of paths) for (const name of unmangled(fileName(path))) lists.add(foldedStem(name), path);
    return lists;
  });
  return {
    paths,
    hashOf: (path) => hashes.get(path),
    ofSameStem: (name) => {
      const key = bareKey(foldedStem(name));
      return byBareStem()
        .get(hashOfText(key))
        .filter((path) => bareKey(foldedStem(fileName(path))) === key);
    },
    ofMangledStem: (name) => byMangledStem().get(foldedStem(name)),
    byFoldedPath: once(() => new Map([...paths].map((path) => [foldName(path), path]))),
    ofSameSpelling: (stem) => {
      const key = spellingKey(stem);
      if (key === null) return [];
      return bySpelling()
        .get(hashOfText(key))
        .filter((path) => spellingKey(foldedStem(fileName(path))) === key);
    },
    isOtherChannel: createChannelJudge(),
    tileSets: once(() => groupTiles(paths)),
  };
}

/** A name without its type, case and accents. */
export function foldedStem(name: string): string {
  const folded = foldName(name);
  const dot = folded.lastIndexOf('.');
  return dot > 0 ? folded.slice(0, dot) : folded;
}

/** Stems with no more left than this when bare, such as `4k`, are known by all of it. */
const LEAST_BARE = 2;

/** Key under which stems meet that are the same when bare. */
function bareKey(stem: string): string {
  const bare = bareStem(stem);
  return bare.length < LEAST_BARE ? `/${stem}` : bare;
}

/** The hash of the same for the last name of a path. */
function bareHash(path: string): number {
  return (
    hashOfBareStem(path, stemStretch(path), LEAST_BARE) ?? hashOfText(bareKey(foldedStem(fileName(path))))
  );
}

/** The hash of {@link spellingKey} for the last name of a path. */
function spellingHash(path: string): number | null {
  const stretch = stemStretch(path);
  const hash =
    stretch.end - stretch.start < LEAST_LETTERS ? null : hashOfSpelling(path, stretch, FIRST_LETTERS);
  if (hash !== null) return hash;
  const key = spellingKey(foldedStem(fileName(path)));
  return key === null ? null : hashOfText(key);
}

/** Without case and accents, so that `Möwe.PNG` and `mowe.png` meet. */
export function foldName(text: string): string {
  return isAscii(text) ? text.toLowerCase() : text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase();
}

/** A stem without resolution, version, tile and separators. Other numbers tell parts apart and stay. */
export function bareStem(stem: string): string {
  const folded = foldName(stem);
  if (!isAscii(folded)) {
    const words = folded.split(/[^\p{L}\p{N}]+/u);
    return words.filter((word, i) => !isMark(word, i === words.length - 1)).join('');
  }
  let bare = '';
  let start = 0;
  for (let i = 0; i <= folded.length; i += 1) {
    if (i < folded.length && isWordCode(folded.charCodeAt(i))) continue;
    if (i > start) {
      const word = folded.slice(start, i);
      if (!isMark(word, i === folded.length)) bare += word;
    }
    start = i + 1;
  }
  return bare;
}

/**
 * Key under which close spellings of a stem meet: its numbers and its first letters, which must be equal.
 * Null for stems too short to have a close spelling.
 */
export function spellingKey(stem: string): string | null {
  const folded = foldName(stem);
  if (folded.length < LEAST_LETTERS) return null;
  let key = folded.slice(0, FIRST_LETTERS);
  for (let i = 0; i < folded.length; i += 1) {
    const code = folded.charCodeAt(i);
    if (code >= 48 && code <= 57) key += folded[i];
  }
  return key;
}

/** Whether all letters of a text are plain ones. */
export function isAscii(text: string): boolean {
  for (let i = 0; i < text.length; i += 1) if (text.charCodeAt(i) > 127) return false;
  return true;
}
