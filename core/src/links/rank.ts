import { distance } from 'fastest-levenshtein';
import { classifyNames, type NameClass } from '../maps/classifyName.ts';
import { isElsewhere, placeOf } from '../parcel/filePlace.ts';
import { extensionOf, fileName, folderOf, stemOf } from '../parcel/fileSource.ts';
import { channelInWords } from '../scene/channelTitles.ts';
import { bareStem, type FileIndex, foldedStem, foldName, isAscii } from './fileIndex.ts';
import { unmangled } from './mangledNames.ts';
import { isTilePattern, normalisePattern, tilesInWords } from './tiles.ts';
import { parseWrittenPath, type WrittenPath } from './writtenPath.ts';

/** A file that may be the missing one. */
export interface Candidate {
  path: string;
  /** In 0..1. */
  score: number;
  /** Why, best reason first, in words. */
  reasons: string[];
  /** May be linked without asking: a strong reason and no rival near it. */
  safe: boolean;
  /** Given by the asset's sets of images rather than by its name. */
  ofSet?: true;
}

/** Scores of the reasons; `docs/evidence.md` tells how they are used. */
const SCORE = { tail: 0.99, name: 0.95, case: 0.93, mangled: 0.92, type: 0.91, bare: 0.7, spelling: 0.5 };
const SAFE_SCORE = 0.9;
/** A rival this near makes a choice unsafe. */
const SAFE_LEAD = 0.005;

/**
 * The file that a written path names exactly, seen from the model's folder: nothing is guessed.
 * Absolute paths never resolve; the relative one that FBX writes beside them may.
 */
export function resolveExactly(
  written: string,
  relative: string | null,
  modelPath: string,
  index: FileIndex,
): string | null {
  for (const text of [relative, written]) {
    if (!text) continue;
    const path = parseWrittenPath(text);
    if (path.absolute || path.name === '') continue;
    const joined = joinRelative(folderOf(modelPath), text);
    if (joined !== null && index.paths.has(joined)) return joined;
    if (joined !== null && isTilePattern(joined) && index.tileSets().has(normalisePattern(joined)))
      return normalisePattern(joined);
    if (!path.climbs && index.paths.has(path.parts.join('/')) && folderOf(modelPath) === '')
      return path.parts.join('/');
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

/** Most edits between two spellings. */
const SPELLING_EDITS = 2;
/** Files with a common beginning or end that are compared letter by letter. */
const SPELLING_BUCKET = 400;
/** Files from outside the parcel come after its own. */
const FURTHER_PENALTY = 0.012;

/** Files that a written path may mean, best first, at most `most`. Tile sets stand as their pattern. */
export function rankCandidates(written: string, modelPath: string, index: FileIndex, most = 8): Candidate[] {
  const path = parseWrittenPath(written);
  if (path.name === '') return [];
  if (isTilePattern(path.name)) return rankTileSets(path, modelPath, index).slice(0, most);
  const candidates = new Map<string, Candidate>();
  const add = (file: string, score: number, reason: string) => {
    const existing = candidates.get(file);
    if (existing && existing.score >= score) return;
    candidates.set(file, { path: file, score, reasons: [reason], safe: false });
  };
  const { name } = path;
  const likenessOf = likenessTo(path);
  for (const file of index.ofSameStem(name)) {
    const { score, reason } = likenessOf(file);
    add(file, score, reason);
  }
  for (const file of manglings(path, index)) {
    const sameType = extensionOf(file) === path.extension.toLowerCase();
    const reason = 'same name once its encoding is undone';
    add(
      file,
      sameType ? SCORE.mangled : SCORE.type - 2 * SAFE_LEAD,
      sameType ? reason : `${reason}, type ${extensionOf(file)} for ${path.extension || 'none'}`,
    );
  }
  if (candidates.size === 0)
    for (const [file, edits] of closeSpellings(path.stem, index))
      add(
        file,
        SCORE.spelling - 0.1 * (edits - 1),
        `close spelling, ${edits} ${edits === 1 ? 'letter' : 'letters'} apart`,
      );
  for (const candidate of candidates.values()) candidate.score += nearness(candidate.path, modelPath);
  for (const candidate of candidates.values()) {
    const shared = sharedFolders(candidate.path, path);
    if (shared > 0 && candidate.score >= SCORE.type - FURTHER_PENALTY) {
      const folders = path.parts.slice(-1 - shared, -1).join('/');
      candidate.reasons.push(`same folder ${folders}`);
      if (candidate.reasons[0] === 'same name') {
        candidate.score = Math.min(SCORE.tail, SCORE.name + 0.01 * shared + 0.01);
        candidate.reasons[0] = 'same relative path';
      }
    }
    if (isElsewhere(candidate.path)) {
      candidate.score -= FURTHER_PENALTY;
      candidate.reasons.push(
        placeOf(candidate.path).in === 'searchFolder' ? 'in a search folder' : 'in another parcel',
      );
    }
  }
  const ranked = [...candidates.values()].sort((a, b) => b.score - a.score || (a.path < b.path ? -1 : 1));
  settle(ranked, index);
  return ranked.slice(0, most);
}

/** How files of the same bare stem are like what was written. */
function likenessTo({ name, stem, extension }: WrittenPath) {
  const folded = { name: foldName(name), stem: foldName(stem) };
  return (file: string): { score: number; reason: string } => {
    const other = fileName(file);
    if (other.normalize('NFC') === name) return { score: SCORE.name, reason: 'same name' };
    if (foldName(other) === folded.name)
      return { score: SCORE.case, reason: 'same name but for case or accents' };
    if (foldedStem(other) === folded.stem)
      return {
        score: SCORE.type,
        reason: `same stem, type ${extensionOf(file)} for ${extension || 'none'}`,
      };
    return { score: SCORE.bare, reason: 'same stem but for resolution, version or separators' };
  };
}

/** Marks the best as safe when nothing comes near it, or when all that come near hold the same pixels. */
function settle(ranked: Candidate[], index: FileIndex): void {
  const [best] = ranked;
  if (best && best.score >= SAFE_SCORE) {
    const rivals = ranked.slice(1).filter((other) => best.score - other.score < SAFE_LEAD);
    const hash = index.hashOf(best.path);
    const copies = hash !== undefined && rivals.every((other) => index.hashOf(other.path) === hash);
    best.safe = rivals.length === 0 || copies;
    if (rivals.length > 0 && copies)
      best.reasons.push(
        `same pixels as ${rivals.length === 1 ? rivals[0].path : `${rivals.length} other copies`}`,
      );
  }
  for (const candidate of ranked) candidate.score = Math.round(candidate.score * 1000) / 1000;
}

/** Tile sets whose pattern the written one means. */
function rankTileSets(path: WrittenPath, modelPath: string, index: FileIndex): Candidate[] {
  const name = foldName(normalisePattern(path.name));
  const bare = bareStem(normalisePattern(path.stem).replace('<UDIM>', ''));
  const ranked: Candidate[] = [];
  for (const { pattern, tiles } of index.tileSets().values()) {
    const patternName = pattern.slice(pattern.lastIndexOf('/') + 1);
    const same = foldName(patternName) === name;
    const sameStem = foldName(stemOf(patternName)) === foldName(stemOf(normalisePattern(path.name)));
    if (!same && !sameStem && bareStem(stemOf(patternName).replace('<UDIM>', '')) !== bare) continue;
    const shared = sharedFolders(pattern, path);
    const score = scoreOf(same, shared, sameStem);
    const reason = reasonOf(same, shared, sameStem, patternName);
    const span = `tile set of ${tiles.length}: ${tilesInWords(tiles.map(({ number }) => number))}`;
    ranked.push({
      path: pattern,
      score: score + nearness(pattern, modelPath),
      reasons: [reason, span],
      safe: false,
    });
  }
  ranked.sort((a, b) => b.score - a.score || (a.path < b.path ? -1 : 1));
  settle(ranked, index);
  return ranked;
}

function scoreOf(same: boolean, shared: number, sameStem: boolean) {
  if (same) return shared > 0 ? SCORE.tail : SCORE.name;
  return sameStem ? SCORE.type : SCORE.bare;
}

function reasonOf(same: boolean, shared: number, sameStem: boolean, patternName: string) {
  if (same) return shared > 0 ? 'same relative path' : 'same name';
  return sameStem
    ? `same stem, type ${extensionOf(patternName)}`
    : 'same stem but for resolution, version or separators';
}

/** Files that have the written name, once either is what it was before its bytes were taken for others. */
function manglings({ name }: WrittenPath, index: FileIndex): string[] {
  if (isAscii(name)) return [];
  const isSameStem = (reading: string) => (file: string) =>
    foldedStem(fileName(file)) === foldedStem(reading);
  return [
    ...unmangled(name).flatMap((reading) => index.ofSameStem(reading).filter(isSameStem(reading))),
    ...index.ofMangledStem(name),
  ];
}

function closeSpellings(stem: string, index: FileIndex): [string, number][] {
  const folded = foldName(stem);
  const files = index.ofSameSpelling(stem).slice(0, SPELLING_BUCKET);
  const close: [string, number][] = [];
  for (const file of files) {
    const other = foldName(stemOf(file));
    if (Math.abs(other.length - folded.length) > SPELLING_EDITS) continue;
    const edits = distance(folded, other);
    if (edits > 0 && edits <= SPELLING_EDITS && !index.isOtherChannel(stem, stemOf(file)))
      close.push([file, edits]);
  }
  return close.sort((a, b) => a[1] - b[1]);
}

/** How many folders above the name agree. */
function sharedFolders(file: string, path: WrittenPath): number {
  let count = 0;
  let end = file.lastIndexOf('/');
  for (let i = path.parts.length - 2; i >= 0 && end > 0; i -= 1, count += 1) {
    const start = file.lastIndexOf('/', end - 1) + 1;
    if (foldName(file.slice(start, end)) !== foldName(path.parts[i])) break;
    end = start - 1;
  }
  return count;
}

/** A small bonus for lying near the model, so that equal names in other folders come later. */
function nearness(file: string, modelPath: string): number {
  const home = folderOf(modelPath);
  return home === '' || file.startsWith(`${home}/`)
    ? 0.004 - 0.001 * Math.min(4, file.split('/').length - home.split('/').length)
    : 0;
}

/** An image that holds the opposite of a missing one, such as glossiness for roughness. */
export interface Counterpart {
  path: string;
  reason: string;
}

/**
 * Looks for glossiness beside a missing roughness image, and the other way round, in the same set of names.
 */
export function findCounterpart(written: string, others: Iterable<NameClass>): Counterpart | null {
  const [writtenClass] = classifyNames([parseWrittenPath(written).name]);
  const opposite = { roughness: 'glossiness', glossiness: 'roughness' } as Record<string, string>;
  const required =
    writtenClass.readings.length === 1 ? opposite[writtenClass.readings[0].channel] : undefined;
  if (!required) return null;
  for (const other of others) {
    if (other.set === writtenClass.set && !other.packed && other.readings[0]?.channel === required)
      return {
        path: other.path,
        reason: `${required} of the same set lies in the parcel; inverted it gives ${channelInWords(writtenClass.readings[0].channel)}`,
      };
  }
  return null;
}
