import { readFile, stat } from 'node:fs/promises';
import { dirname, isAbsolute, join, relative, resolve, sep } from 'node:path';
import type { Edit } from '@kinkajou/core/asset/asset';
import { initialState, type ParcelImage } from '@kinkajou/core/asset/asset';
import { keepMaterial, placeMaterial } from '@kinkajou/core/asset/canonical';
import { MADE_FOLDER } from '@kinkajou/core/asset/madeFiles';
import { makeMaps } from '@kinkajou/core/asset/makeMaps';
import { scanImages } from '@kinkajou/core/asset/scanImages';
import { describeEdit, replay } from '@kinkajou/core/edits/log';
import { parseEdit } from '@kinkajou/core/edits/schema';
import { KinkajouError } from '@kinkajou/core/errors';
import { listModels, type MendLevel, type OpenAsset, openAsset, withImages } from '@kinkajou/core/inspect';
import type { HouseWords } from '@kinkajou/core/maps/nameSpans';
import { pathOf } from '@kinkajou/core/parcel/filePlace';
import type { FileSource } from '@kinkajou/core/parcel/fileSource';
import { folderSource } from '@kinkajou/core/parcel/folderSource';
import { parseJson } from '@kinkajou/core/parcel/json';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { openSource } from '@kinkajou/core/parcel/openSource';
import {
  type Asked,
  applyRules,
  type BroughtMaterial,
  leftOf,
  type RuledAsset,
} from '@kinkajou/core/rules/applyRules';
import { BUILT_IN_RULEBOOKS } from '@kinkajou/core/rules/builtIn';
import { conflictsIn } from '@kinkajou/core/rules/conflicts';
import {
  type LogSurroundings,
  rulesFrom,
  surroundingsOf,
  unruledInWords,
} from '@kinkajou/core/rules/fromEdits';
import { parseRulebook } from '@kinkajou/core/rules/parseRulebook';
import type { Rulebook } from '@kinkajou/core/rules/rulebook';
import type { PaintedModel } from '@kinkajou/core/sets/imageSet';
import { factsOf, type MendedAsset, mendWithFacts } from './facts.ts';
import { withAssets } from './openPath.ts';
import { EXIT, type Output } from './output.ts';

/** A rulebook with the folder that it lies in, from which it names files. */
export interface OpenRulebook {
  book: Rulebook;
  file: string;
  text: string;
}

/** Reads rulebooks in the order given; throws with file and place where one is wrong. */
export async function readRulebooks(files: readonly string[]): Promise<OpenRulebook[]> {
  const books: OpenRulebook[] = [];
  for (const file of files) books.push(await readRulebook(file));
  return books;
}

async function readRulebook(file: string): Promise<OpenRulebook> {
  if (Object.hasOwn(BUILT_IN_RULEBOOKS, file))
    return { book: BUILT_IN_RULEBOOKS[file], file: '', text: JSON.stringify(BUILT_IN_RULEBOOKS[file]) };
  let text: string;
  try {
    text = await readFile(file, 'utf8');
  } catch {
    throw new KinkajouError(
      'call.rules',
      'this rulebook cannot be read',
      { file },
      `Check the spelling, or name a built-in one: ${Object.keys(BUILT_IN_RULEBOOKS).join(', ')}.`,
    );
  }
  return {
    book: parseRulebook(
      parseJson(text, { file, code: 'rulebook.invalid', hint: 'Mend the file; it is read as JSON.' }),
      file,
    ),
    file,
    text,
  };
}

/** Rulebooks and the surroundings in which they apply. */
export interface RuleCall {
  books: readonly OpenRulebook[];
  /** Folder that the source lies in, so that rules may name places on the disk. */
  root: string;
  parcel: string;
  level: MendLevel;
  house?: HouseWords;
  choose?: readonly string[];
  prefers?: PaintedModel;
  /** What was done before, by hand or otherwise. */
  before?: readonly Edit[];
  /** Folders elsewhere on the disk that rules name, opened once for many assets. */
  outside?: readonly OutsideFolder[];
}

/** A folder that a rule names by an absolute path and that is not below the source. */
export interface OutsideFolder {
  written: string;
  /** Where its files appear among those of the source. */
  prefix: string;
  images: ParcelImage[];
  read(path: string): Promise<Uint8Array>;
}

/** Numbers of such folders begin here, so that they are none of those to search. */
const FIRST_OUTSIDE = 1000;

/**
 * Opens the folders that link rules name by absolute paths. Throws `rule.folder` for one that cannot be read.
 */
export async function openOutside(books: readonly OpenRulebook[], root: string): Promise<OutsideFolder[]> {
  const links = books.flatMap(({ book }) =>
    book.rules.flatMap(({ then }) => then.flatMap((action) => (action.do === 'link' ? [action.to] : []))),
  );
  const folders: OutsideFolder[] = [];
  for (const written of new Set(links)) {
    if (folderIn(root, written) !== null) continue;
    const place = written.replaceAll('\\', '/');
    const source = await folderSource(place, { limits: limitsFromEnvironment(), partial: true }).catch(() => {
      throw new KinkajouError(
        'rule.folder',
        'a rule names this folder, which cannot be read',
        { file: written },
        'Check the spelling, or bring the folder there.',
      );
    });
    const number = FIRST_OUTSIDE + folders.length;
    const pathFor = (path: string) => pathOf({ in: 'searchFolder', folder: number, path });
    const prefix = pathFor('x').slice(0, -2);
    const read = (path: string) => source.read(path.slice(prefix.length + 1));
    const images = await scanImages(
      { ...source, files: source.files.map((file) => ({ ...file, path: pathFor(file.path) })), read },
      limitsFromEnvironment(),
    );
    folders.push({ written, prefix, images, read });
  }
  return folders;
}

/** The asset with the images of those folders beside its own. */
function withOutside(asset: OpenAsset, outside: readonly OutsideFolder[]): OpenAsset {
  if (outside.length === 0) return asset;
  const folderOfPath = (path: string) => outside.find(({ prefix }) => path.startsWith(`${prefix}/`));
  return {
    ...asset,
    images: [...asset.images, ...outside.flatMap(({ images }) => images)],
    read: (path) => folderOfPath(path)?.read(path) ?? asset.read(path),
  };
}

/** An asset after rules and mends, with what is left of it. */
export interface SettledAsset extends MendedAsset {
  left: { code: string; subject: string; rule: string | null }[];
  handOffs: string[];
  ruled: RuledAsset;
}

/** Applies rulebooks, makes the images that their mends want, and mends to the level what they leave open. */
export async function settleWithRules(
  given: OpenAsset,
  output: Output,
  call: RuleCall,
): Promise<SettledAsset> {
  const { books, root, parcel, level, house, choose, prefers, before } = call;
  const outside = call.outside ?? (await openOutside(books, root));
  const looked = await factsOf(withOutside(given, outside), output);
  const materials = new Map<string, Promise<BroughtMaterial>>();
  const folders = new Map(books.map(({ book, file }) => [book, dirname(file)]));
  const ruled = await applyRules(
    looked.asset,
    books.map(({ book }) => book),
    {
      parcel,
      before,
      knowledge: { facts: looked.facts, house, prefers },
      folderFor: (written) =>
        outside.find(({ written: own }) => own === written)?.prefix ?? folderIn(root, written),
      materialFor: (name, book) => {
        const key = join(folders.get(book) ?? '', name);
        const made = materials.get(key) ?? readMaterial(folders.get(book) ?? '', name);
        materials.set(key, made);
        return made;
      },
    },
  );
  const { asset, edits } = await makeWanted(ruled);
  const spared = ({ key }: { key: string }) => {
    const said = ruled.settled.get(key)?.verdict;
    return said === 'ask' || said === 'leave';
  };
  const mended = await mendWithFacts(asset, level, output, { house, choose, prefers, before: edits, spared });
  return {
    ...mended,
    left: leftOf(mended.findings, ruled.settled, ruled.asked),
    handOffs: ruled.handOffs,
    ruled,
  };
}

/** New images that the mends of rules want, put to use by edits that bear the rule's name. */
async function makeWanted({
  asset: given,
  edits: before,
  makes,
}: RuledAsset): Promise<{ asset: OpenAsset; edits: Edit[] }> {
  let [asset, edits] = [given, before];
  for (const { request, origin } of makes) {
    const { state } = replay(asset.source, edits, asset.images);
    const { files, edit } = await makeMaps(request, state, asset.read, { limits: limitsFromEnvironment() });
    if (!edit) continue;
    asset = await withImages(
      asset,
      new Map(files.map(({ path, bytes }) => [path, bytes])),
      limitsFromEnvironment(),
    );
    edits = [...edits, { ...edit, origin }];
  }
  return { asset, edits };
}

/**
 * A folder as a rule writes it, as paths below the root have it; null where it lies elsewhere on the disk.
 */
function folderIn(root: string, written: string): string | null {
  const text = written.replaceAll('\\', '/');
  const plain = text.replace(/^(\.\/)+/, '').replace(/\/+$/, '');
  if (!isAbsolute(text)) return plain === '.' ? '' : plain;
  const within = relative(resolve(root), resolve(text)).split(sep).join('/');
  return within.startsWith('..') || isAbsolute(within) ? null : within;
}

/** The only material of a model file, or the one after `#`, with its images. */
async function readMaterial(folder: string, name: string): Promise<BroughtMaterial> {
  const mark = name.lastIndexOf('#');
  const [path, wanted] = mark > 0 ? [name.slice(0, mark), name.slice(mark + 1)] : [name, null];
  const file = join(folder, path);
  if (!(await stat(file).catch(() => null)))
    throw new KinkajouError(
      'rule.material',
      `there is no material "${name}"`,
      { file },
      'Name a model file, seen from the rulebook, and its material after "#".',
    );
  const opened = await openSource(file, limitsFromEnvironment());
  try {
    const model = opened.only ?? listModels(opened.source)[0];
    const asset = await openAsset(opened.source, model, limitsFromEnvironment());
    const state = initialState(asset.source);
    const fitting = state.materials.filter((material) => wanted === null || material.name === wanted);
    if (fitting.length !== 1) {
      const names = state.materials.map((material) => material.name).join(', ');
      throw new KinkajouError(
        'rule.material',
        `${wanted === null ? 'it has several materials' : `it has no material "${wanted}"`}`,
        { file },
        `Name one of ${names} after "#".`,
      );
    }
    const kept = keepMaterial(fitting[0], state, asset.images);
    const pathOf = (image: string) => {
      const found = kept.images.find((one) => one.name === image);
      return `${MADE_FOLDER}/${image.replace(/(\.\w+)?$/, `_${(found?.sha256 ?? '').slice(0, 6)}$1`)}`;
    };
    const files = new Map<string, Uint8Array>();
    for (const image of kept.images) {
      const source = asset.images.find(({ sha256 }) => sha256 === image.sha256);
      if (source) files.set(pathOf(image.name), await asset.read(source.path));
    }
    return { material: placeMaterial(kept, pathOf), files };
  } finally {
    await opened.source.close();
  }
}

/** `rules check`: whether each file is a rulebook, and what is wrong with one that is not. */
export async function runRulesCheck(
  files: readonly string[],
  { json }: { json?: boolean },
  output: Output,
): Promise<number> {
  const told = [];
  for (const file of files) {
    try {
      const { book } = await readRulebook(file);
      told.push({
        file,
        ok: true,
        title: book.title,
        rules: book.rules.map(({ name }) => name),
        error: null,
      });
      if (!json)
        output.text(
          `${file}: ${book.title}, ${book.rules.length} ${book.rules.length === 1 ? 'rule' : 'rules'}`,
        );
    } catch (error) {
      if (!(error instanceof KinkajouError)) throw error;
      told.push({
        file,
        ok: false,
        title: null,
        rules: [],
        error: { code: error.code, message: error.message },
      });
      if (!json) output.text(error.toText());
    }
  }
  if (json) output.json({ files: told });
  return told.every(({ ok }) => ok) ? EXIT.done : EXIT.errorsRemain;
}

/** `rules try`: what each rule would do to each asset; nothing is written. */
export async function runRulesTry(
  file: string,
  paths: readonly string[],
  options: { search: string[]; json?: boolean },
  output: Output,
): Promise<number> {
  const books = await readRulebooks([file]);
  const assets: object[] = [];
  let asks = 0;
  for (const path of paths) {
    const { results } = await withAssets(path, options.search, output, async (given) => {
      const { ruled } = await settleWithRules(given, output, {
        books,
        root: path,
        parcel: given.files.name,
        level: 'none',
      });
      asks += ruled.asked.length;
      return {
        path: given.source.model,
        rules: ruled.outcomes.map(({ rule, edits, settled }) => ({
          rule,
          edits: edits.map((edit) => ({ text: describeEdit(edit), reason: edit.origin.detail })),
          settled,
        })),
        asked: ruled.asked.map(({ code, subject, rule }: Asked) => ({ code, subject, rule })),
        handOffs: ruled.handOffs,
        conflicts: conflictsIn(ruled.outcomes),
      };
    });
    for (const result of results) {
      assets.push(result);
      if (options.json) continue;
      output.text(`${result.path}:`);
      for (const { rule, edits, settled } of result.rules) {
        output.text(`  ${rule}`);
        for (const { text } of edits) output.text(`    ${text}`);
        for (const { code, subject, verdict } of settled) output.text(`    ${verdict}: ${code} ${subject}`);
      }
      for (const { rule, over, about } of result.conflicts)
        output.text(`  ${rule} says otherwise than ${over}: ${about}`);
      if (result.rules.length === 0) output.text('  no rule is about it');
    }
  }
  if (options.json) output.json({ rulebook: books[0].book.title, assets });
  return asks > 0 ? EXIT.errorsRemain : EXIT.done;
}

/** `rules from`: a rulebook of an exported asset's log, or of a log as JSON. */
export async function runRulesFrom(
  path: string,
  { json }: { json?: boolean },
  output: Output,
): Promise<number> {
  const edits = await readLog(path);
  const surroundings = await surroundingsOfExport(path, output);
  const { rulebook, without } = rulesFrom(edits, `From ${path.replace(/^.*[\\/]/, '')}`, surroundings);
  output.json(rulebook);
  if (!json) for (const sentence of unruledInWords(without)) output.message(sentence);
  return EXIT.done;
}

/** Edits of an exported asset, or of a JSON file. Throws `log.invalid`. */
export async function readLog(path: string): Promise<Edit[]> {
  if (!isExport(path)) return editsIn(parseLog(await readText(path), path), path);
  return withExport(path, async (_, log) => editsIn(log, path));
}

const isExport = (path: string) => /\.zip$/i.test(path);

/** What is known of the asset that a log was exported with; without its names where it cannot be read. */
async function surroundingsOfExport(path: string, output: Output): Promise<LogSurroundings | undefined> {
  if (!isExport(path)) return undefined;
  return withExport(path, async (source, log) => {
    const { model, files } = log as { model?: unknown; files?: unknown };
    if (typeof model !== 'string' || !Array.isArray(files)) return undefined;
    try {
      const asset = await openAsset(exportedSource(source, files), model);
      return surroundingsOf(asset.source, asset.images);
    } catch (error) {
      if (!(error instanceof KinkajouError)) throw error;
      output.message(`${model} cannot be read (${error.message}); all numbers in names are left open`);
      return undefined;
    }
  });
}

/** Works with the files of an exported asset and what it says of itself. */
async function withExport<T>(
  path: string,
  work: (source: FileSource, log: unknown) => Promise<T>,
): Promise<T> {
  const { source } = await openSource(path, limitsFromEnvironment());
  try {
    const log = parseJson(new TextDecoder().decode(await source.read('asset.json')), {
      file: path,
      code: 'log.invalid',
      hint: 'Export the asset again.',
    });
    return await work(source, log);
  } finally {
    await source.close();
  }
}

/** The files of an exported asset, which lie under their hashes, at their own paths. */
function exportedSource(source: FileSource, files: readonly { path: string; sha256: string }[]): FileSource {
  const stored = new Map(files.map(({ path, sha256 }) => [path, `files/${sha256}`]));
  const sizes = new Map(source.files.map(({ path, size }) => [path, size]));
  return {
    name: source.name,
    files: [...stored].map(([path, at]) => ({ path, size: sizes.get(at) ?? 0, modified: null })),
    notices: [],
    read: (path) => source.read(stored.get(path) ?? path),
    close: async () => undefined,
  };
}

async function readText(path: string): Promise<string> {
  return readFile(path, 'utf8').catch(() => {
    throw new KinkajouError(
      'call.log',
      'this log cannot be read',
      { file: path },
      'Name an exported asset, or a JSON file with edits.',
    );
  });
}

function parseLog(text: string, path: string): unknown {
  return parseJson(text, { file: path, code: 'log.invalid', hint: 'Mend the file; it is read as JSON.' });
}

/** Edits that are in force, of a list or of an object that holds one. */
function editsIn(log: unknown, path: string): Edit[] {
  const list = Array.isArray(log) ? log : (log as { edits?: unknown })?.edits;
  if (!Array.isArray(list))
    throw new KinkajouError(
      'log.invalid',
      'it holds no edits',
      { file: path },
      'Give a list of edits, or an object with "edits".',
    );
  const cursor = (log as { cursor?: unknown }).cursor;
  const applied = typeof cursor === 'number' ? list.slice(0, cursor) : list;
  return applied.map((entry) => parseEdit((entry as { edit?: unknown })?.edit ?? entry));
}
