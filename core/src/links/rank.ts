import { classifyNames, stripNoise } from '../maps/classifyName.ts';
import { extensionOf, fileName, folderOf, stemOf } from '../parcel/fileSource.ts';
import { parseWrittenPath, type WrittenPath } from './writtenPath.ts';

export interface Candidate {
  path: string;
  /** In 0..1. */
  score: number;
  /** Why, best reason first, in words. */
  reasons: string[];
  /** May be linked without asking: a strong reason and no rival near it. */
  safe: boolean;
}

/** Files by the ways in which a written path can name them; built once for a parcel. */
export interface FileIndex {
  paths: Set<string>;
  byName: Map<string, string[]>;
  byFoldedName: Map<string, string[]>;
  byFoldedStem: Map<string, string[]>;
  byBareStem: Map<string, string[]>;
}

/** Scores of the reasons; see `docs/links.md` for how they are used. */
const SCORE = { samePath: 1, tail: 0.99, name: 0.95, case: 0.93, type: 0.91, bare: 0.7 };
const SAFE_SCORE = 0.9;
/** A rival this near makes a choice unsafe. */
const SAFE_LEAD = 0.005;

export function buildFileIndex(paths: Iterable<string>): FileIndex {
  const index: FileIndex = { paths: new Set(), byName: new Map(), byFoldedName: new Map(), byFoldedStem: new Map(), byBareStem: new Map() };
  const push = (map: Map<string, string[]>, key: string, path: string) => {
    const list = map.get(key);
    if (list) list.push(path);
    else map.set(key, [path]);
  };
  for (const path of paths) {
    index.paths.add(path);
    const name = fileName(path).normalize('NFC');
    push(index.byName, name, path);
    push(index.byFoldedName, fold(name), path);
    push(index.byFoldedStem, fold(stemOf(name)), path);
    push(index.byBareStem, bareStem(stemOf(name)), path);
  }
  return index;
}

/** Without case and accents, so that `Möwe.PNG` and `mowe.png` meet. */
function fold(text: string): string {
  return text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase();
}

function bareStem(stem: string): string {
  return fold(stripNoise(stem)).replace(/[^\p{L}\p{N}]+/gu, '');
}

/**
 * The file that a written path names exactly, seen from the model's folder: nothing is guessed.
 * Absolute paths never resolve; the relative one that FBX writes beside them may.
 */
export function resolveExactly(written: string, relative: string | null, modelPath: string, index: FileIndex): string | null {
  for (const text of [relative, written]) {
    if (!text) continue;
    const path = parseWrittenPath(text);
    if (path.absolute || path.name === '') continue;
    const joined = joinRelative(folderOf(modelPath), text);
    if (joined !== null && index.paths.has(joined)) return joined;
    if (!path.climbs && index.paths.has(path.parts.join('/')) && folderOf(modelPath) === '') return path.parts.join('/');
  }
  return null;
}

function joinRelative(folder: string, text: string): string | null {
  const parts = folder === '' ? [] : folder.split('/');
  for (const part of text.normalize('NFC').replaceAll('\\', '/').split('/')) {
    if (part === '' || part === '.') continue;
    if (part !== '..') parts.push(part);
    else if (parts.length > 0) parts.pop();
    else return null;
  }
  return parts.join('/');
}

/** Files that a written path may mean, best first, at most `most`. */
export function rankCandidates(written: string, modelPath: string, index: FileIndex, most = 8): Candidate[] {
  const path = parseWrittenPath(written);
  if (path.name === '') return [];
  const found = new Map<string, Candidate>();
  const add = (files: string[] | undefined, score: number, reason: (file: string) => string) => {
    for (const file of files ?? []) {
      const known = found.get(file);
      if (known) continue;
      found.set(file, { path: file, score: score + nearness(file, modelPath), reasons: [reason(file)], safe: false });
    }
  };
  add(index.byName.get(path.name), SCORE.name, () => 'same name');
  add(index.byFoldedName.get(fold(path.name)), SCORE.case, () => 'same name but for case or accents');
  add(index.byFoldedStem.get(fold(path.stem)), SCORE.type, (file) => `same stem, type ${extensionOf(file)} for ${path.extension || 'none'}`);
  const bare = bareStem(path.stem);
  if (bare.length > 1) add(index.byBareStem.get(bare), SCORE.bare, () => 'same stem but for resolution, version or separators');
  for (const candidate of found.values()) {
    const shared = sharedFolders(candidate.path, path);
    if (shared > 0 && candidate.score >= SCORE.type) {
      const folders = path.parts.slice(-1 - shared, -1).join('/');
      candidate.reasons.push(`same folder ${folders}`);
      if (candidate.reasons[0] === 'same name') {
        candidate.score = Math.min(SCORE.tail, SCORE.name + 0.01 * shared + 0.01);
        candidate.reasons[0] = 'same relative path';
      }
    }
  }
  const ranked = [...found.values()].sort((a, b) => b.score - a.score || (a.path < b.path ? -1 : 1));
  const [best, second] = ranked;
  if (best && best.score >= SAFE_SCORE && (!second || best.score - second.score >= SAFE_LEAD)) best.safe = true;
  for (const candidate of ranked) candidate.score = Math.round(candidate.score * 1000) / 1000;
  return ranked.slice(0, most);
}

/** How many folders above the name agree. */
function sharedFolders(file: string, path: WrittenPath): number {
  const own = file.split('/').slice(0, -1).reverse();
  const theirs = path.parts.slice(0, -1).reverse();
  let count = 0;
  while (count < own.length && count < theirs.length && fold(own[count]) === fold(theirs[count])) count += 1;
  return count;
}

/** A small bonus for lying near the model, so that equal names in other folders come later. */
function nearness(file: string, modelPath: string): number {
  const home = folderOf(modelPath);
  return home === '' || file.startsWith(`${home}/`) ? 0.004 - 0.001 * Math.min(4, file.split('/').length - home.split('/').length) : 0;
}

/** An image that holds the opposite of a missing one, such as glossiness for roughness. */
export interface Counterpart {
  path: string;
  reason: string;
}

/** Looks for glossiness beside a missing roughness image, and the other way round, in the same set of names. */
export function findCounterpart(written: string, paths: readonly string[]): Counterpart | null {
  const { name } = parseWrittenPath(written);
  const [own, ...others] = classifyNames([name, ...paths]);
  const opposite = { roughness: 'glossiness', glossiness: 'roughness' } as Record<string, string>;
  const wanted = own.readings.length === 1 ? opposite[own.readings[0].channel] : undefined;
  if (!wanted) return null;
  const match = others.find((other) => other.set === own.set && !other.packed && other.readings[0]?.channel === wanted);
  return match ? { path: match.path, reason: `${wanted} of the same set lies in the parcel; inverted it gives ${own.readings[0].channel}` } : null;
}
