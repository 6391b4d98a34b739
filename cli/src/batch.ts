import { createHash, randomUUID } from 'node:crypto';
import { mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { dirname, join, relative, resolve, sep } from 'node:path';
import type { ParcelImage } from '@kinkajou/core/asset/asset';
import { ownImages } from '@kinkajou/core/asset/ownImages';
import { scanImages } from '@kinkajou/core/asset/scanImages';
import type { Destination } from '@kinkajou/core/destinations/profile';
import { resolveChoices } from '@kinkajou/core/destinations/resolveChoices';
import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import { handOff } from '@kinkajou/core/handoff/handoff';
import { type Receipt, recordOf } from '@kinkajou/core/handoff/tell/receipt';
import { homeOf, listModels, openAsset } from '@kinkajou/core/inspect';
import { extensionOf, type FileSource, folderOf, stemOf } from '@kinkajou/core/parcel/fileSource';
import { folderSource } from '@kinkajou/core/parcel/folderSource';
import { sha256 } from '@kinkajou/core/parcel/hash';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { mendLevel } from './facts.ts';
import { destinationOf, memoryCache, pictureOf } from './handoff.ts';
import { EXIT, type Output } from './output.ts';
import { type OpenRulebook, type OutsideFolder, openOutside, readRulebooks, settleWithRules } from './rules.ts';
import { readWords } from './words.ts';

interface BatchOptions {
  to: string[];
  out: string;
  rules: string[];
  mend: string;
  words?: string;
  threads: string;
  resume?: boolean;
  json?: boolean;
}

/** One asset of a run, as `batch.json` has it. */
interface BatchEntry {
  /** Below the folder, with forward slashes. */
  path: string;
  verdict: Receipt['verdict'] | null;
  /** Folder of the package below the output; of several destinations the first. Null without one. */
  out: string | null;
  edits: Receipt['edits'];
  left: { code: string; subject: string; rule: string | null }[];
  error: { code: string; message: string } | null;
}

/** What a run keeps of an asset, so that a later one knows whether anything has changed. */
interface Kept {
  entry: BatchEntry;
  /** What it was made by: rulebooks, destinations, the level of mends, words. */
  call: string;
  /** SHA-256 of what was read, by path. */
  read: Record<string, string>;
  /** The images among which it looked, as one hash: all of the folder, or those that it may call its own. */
  images: { hash: string; own: boolean };
  /** Packages by folder, with the receipt's SHA-256. */
  packages: Record<string, string>;
}

/** What the run keeps for itself. */
const OWN = '.kinkajou-batch';
const WORK = 'work';
const RECORDS = 'assets';
const REPORT = 'batch.json';

/**
 * Hands every model below a folder to its destinations, several at a time. Packages appear whole or not at all, and
 * `batch.json` is written anew after each asset. A model that cannot be read is told, and the rest go on.
 */
export async function runBatch(dir: string, options: BatchOptions, output: Output): Promise<number> {
  const level = mendLevel(options.mend);
  const books = await readRulebooks(options.rules);
  const house = await readWords(options.words);
  const words = [...new Set([...options.to, ...handOffsOf(books)])];
  if (words.length === 0) throw new KinkajouError('call.destination', '--to is missing', {}, 'See "kinkajou destinations".');
  const destinations = new Map<string, Destination>();
  for (const word of words) destinations.set(word, await destinationOf(word));
  for (const destination of destinations.values()) resolveChoices(destination);
  const threads = Number(options.threads);
  if (!(Number.isInteger(threads) && threads >= 1 && threads <= 64))
    throw new KinkajouError('call.threads', `--threads is "${options.threads}"`, {}, 'Give a number from 1 to 64.');
  const out = resolve(options.out);
  const source = await sourceOf(dir, out);
  await prepareOut(out, options, dir);
  const limits = limitsFromEnvironment();
  const models = listModels(source).sort();
  if (models.length === 0)
    throw new KinkajouError('parcel.noModel', 'there is no model in it', { file: dir }, 'Name a folder with FBX, OBJ, USD or glTF files below it.');
  const images = await scanImages(source, limits);
  const outside = await openOutside(books, dir);
  const elsewhere = outside.map(({ images: found }) => hashOfImages(found));
  const call = hashOf({ elsewhere, books: books.map(({ text }) => text), to: options.to, destinations: [...destinations.values()], level, house });
  const run: Run = { source, images, books, level, house, destinations, options, out, dir, call, outside, folders: foldersOf(models) };
  const entries = new Map<string, BatchEntry>();
  const report = new Reporter(out);
  await inTurn(models, Math.min(threads, Math.max(1, availableParallelism() * 2)), async (model) => {
    const entry = await settleOne(model, run, output);
    entries.set(model, entry);
    if (!options.json) output.text(lineOf(entry));
    await report.write([...entries.values()]);
  });
  await rm(join(out, OWN, WORK), { recursive: true, force: true });
  const all = models.flatMap((model) => entries.get(model) ?? []);
  if (options.json) output.json({ batch: 1, assets: all });
  else for (const line of tableOf(all)) output.text(line);
  return all.every(({ error, left, verdict }) => !error && left.length === 0 && verdict !== 'failed') ? EXIT.done : EXIT.errorsRemain;
}

function handOffsOf(books: readonly OpenRulebook[]): string[] {
  return books.flatMap(({ book }) => book.rules.flatMap(({ then }) => then.flatMap((action) => (action.do === 'handOff' ? [action.to].flat() : []))));
}

/** The folder without what the run itself writes, should that lie below it. */
async function sourceOf(dir: string, out: string): Promise<FileSource> {
  const there = await stat(dir).catch(() => null);
  if (!there?.isDirectory())
    throw new KinkajouError('call.folder', there ? 'this is no folder' : 'there is no such folder', { file: dir }, 'Name the folder that holds the models.');
  const source = await folderSource(dir, { limits: limitsFromEnvironment() });
  const within = relative(resolve(dir), out).split(sep).join('/');
  if (within === '')
    throw new KinkajouError('out.source', 'packages cannot go into the folder that they are made of', { file: dir }, 'Name another folder with --out.');
  return within.startsWith('..') ? source : { ...source, files: source.files.filter(({ path }) => !path.startsWith(`${within}/`)) };
}

/** An occupied folder is refused, unless an earlier run of the same is to go on there. */
async function prepareOut(out: string, { resume, out: written }: BatchOptions, dir: string): Promise<void> {
  const existing = await readdir(out).catch(() => []);
  const from = await readFile(join(out, OWN, 'from'), 'utf8').catch(() => null);
  if (existing.length > 0 && !resume)
    throw new KinkajouError(
      'out.occupied',
      `${existing.length} things lie there, ${existing.slice(0, 3).join(', ')} among them`,
      { file: written },
      'Name another folder, or go on with --resume.',
    );
  if (existing.length > 0 && from !== resolve(dir))
    throw new KinkajouError('out.occupied', 'no run of this folder wrote there', { file: written }, 'Name the folder of the run that is to go on.');
  // What a killed run had begun.
  await rm(join(out, OWN, WORK), { recursive: true, force: true });
  await mkdir(join(out, OWN, WORK), { recursive: true });
  await mkdir(join(out, OWN, RECORDS), { recursive: true });
  if (from === null) await writeFile(join(out, OWN, 'from'), resolve(dir));
}

/** Where each model's package lies below the output; a stem that comes twice in a folder takes its extension. */
function foldersOf(models: readonly string[]): Map<string, string> {
  const plain = (model: string) => join(folderOf(model), stemOf(model)).split(sep).join('/');
  const count = new Map<string, number>();
  for (const model of models) count.set(plain(model), (count.get(plain(model)) ?? 0) + 1);
  return new Map(models.map((model) => [model, (count.get(plain(model)) ?? 0) > 1 ? `${plain(model)}_${extensionOf(model)}` : plain(model)]));
}

interface Run {
  source: FileSource;
  images: ParcelImage[];
  books: OpenRulebook[];
  level: ReturnType<typeof mendLevel>;
  house: Awaited<ReturnType<typeof readWords>>;
  destinations: ReadonlyMap<string, Destination>;
  options: BatchOptions;
  out: string;
  dir: string;
  call: string;
  outside: OutsideFolder[];
  folders: ReadonlyMap<string, string>;
}

async function settleOne(model: string, run: Run, output: Output): Promise<BatchEntry> {
  const record = join(run.out, OWN, RECORDS, `${createHash('sha256').update(model).digest('hex')}.json`);
  const kept = run.options.resume ? await keptRun(record) : null;
  if (kept && (await isUnchanged(kept, run))) return kept.entry;
  const before = kept ? Object.keys(kept.packages) : [];
  const made = await makeOne(model, run, before, output);
  await writeWhole(join(run.out, OWN, WORK), record, new TextEncoder().encode(JSON.stringify(made)));
  return made.entry;
}

async function makeOne(model: string, run: Run, before: readonly string[], output: Output): Promise<Kept> {
  const { source, images, books, level, house, options, out, call } = run;
  // Destinations of one asset share what they bake alike.
  const cache = memoryCache();
  const read: Record<string, string> = {};
  const blank: BatchEntry = { path: model, verdict: null, out: null, edits: [], left: [], error: null };
  const packages: Record<string, string> = {};
  let own = false;
  try {
    const asset = await openAsset(tracked(source, read), model, limitsFromEnvironment(), images);
    const many = run.destinations.size > 1;
    const prefers = [...run.destinations.values()].every(({ workflow }) => workflow === 'specGloss') ? ('specGloss' as const) : ('metalRough' as const);
    const settled = await settleWithRules(asset, quiet(output), { books, root: run.dir, parcel: source.name, level, house, prefers, outside: run.outside });
    // What is missing may be anywhere; else only what the model may call its own matters.
    const seeks = settled.state.images.some(({ status }) => status === 'missing');
    own = !seeks;
    const picture = await pictureOf(settled.asset, settled.state);
    const entry: BatchEntry = { ...blank, edits: settled.edits.map(recordOf), left: settled.left };
    for (const [word, destination] of run.destinations) {
      if (!options.to.includes(word) && !settled.handOffs.includes(word)) continue;
      const { document, source: described, images: carried, read: readFileOf } = settled.asset;
      const { edits, state, findings } = settled;
      const result = await handOff({
        document,
        source: described,
        state,
        edits,
        findings,
        images: carried,
        destination,
        read: readFileOf,
        picture,
        cache,
        threads: 1,
      });
      const folder = [...(many ? [destination.id] : []), run.folders.get(model)].join('/');
      await placePackage(join(out, OWN, WORK), join(out, folder), result.files, before.includes(folder));
      packages[folder] = sha256(result.files.get('receipt.json') ?? new Uint8Array());
      entry.out ??= folder;
      entry.verdict = worse(entry.verdict, result.receipt.verdict);
    }
    return { entry, call, read, images: { hash: hashOfImages(own ? ownImages(asset.source, images) : images), own }, packages };
  } catch (error) {
    const typed = toKinkajouError(error, 'batch.failed', { file: model });
    return {
      entry: { ...blank, error: { code: typed.code, message: typed.message } },
      call,
      read,
      images: { hash: hashOfImages(images), own: false },
      packages,
    };
  }
}

const VERDICTS: Receipt['verdict'][] = ['clean', 'with remarks', 'failed'];

function worse(a: Receipt['verdict'] | null, b: Receipt['verdict']): Receipt['verdict'] {
  return a === null || VERDICTS.indexOf(b) > VERDICTS.indexOf(a) ? b : a;
}

/** Tells what is read of a source, by hash. */
function tracked(source: FileSource, read: Record<string, string>): FileSource {
  return {
    ...source,
    stream: undefined,
    async read(path) {
      const bytes = await source.read(path);
      read[path] = sha256(bytes);
      return bytes;
    },
  };
}

/** One line an asset is enough; what is met on the way stands in the receipts. */
function quiet(output: Output): Output {
  return { ...output, message: () => undefined };
}

async function keptRun(record: string): Promise<Kept | null> {
  try {
    return JSON.parse(await readFile(record, 'utf8')) as Kept;
  } catch {
    return null;
  }
}

/** Whether everything that an asset was made of is as it was, and its packages are whole. */
async function isUnchanged({ call, read, images, packages, entry }: Kept, run: Run): Promise<boolean> {
  if (call !== run.call || entry.error) return false;
  const known = new Map(run.images.map((image) => [image.path, image.sha256]));
  for (const [path, hash] of Object.entries(read)) {
    const now = known.get(path) ?? sha256(await run.source.read(path).catch(() => new Uint8Array()));
    if (now !== hash) return false;
  }
  const home = homeOf(entry.path, listModels(run.source));
  if (images.hash !== hashOfImages(images.own ? ownImages({ home }, run.images) : run.images)) return false;
  for (const [folder, hash] of Object.entries(packages)) if (!(await isWhole(join(run.out, folder), hash))) return false;
  return true;
}

/** Every file of a package is there, and as its receipt says. */
async function isWhole(folder: string, hash: string): Promise<boolean> {
  const bytes = await readFile(join(folder, 'receipt.json')).catch(() => null);
  if (!bytes || sha256(bytes) !== hash) return false;
  const { outputs } = JSON.parse(bytes.toString('utf8')) as Receipt;
  for (const { path, sha256: expected } of outputs) {
    const content = await readFile(join(folder, path)).catch(() => null);
    if (!content || sha256(content) !== expected) return false;
  }
  return true;
}

/** Moves a package to its place once it is whole. What lies there must be an earlier package of the same run. */
async function placePackage(work: string, target: string, files: ReadonlyMap<string, Uint8Array>, own: boolean): Promise<void> {
  const fresh = join(work, randomUUID());
  for (const [path, bytes] of files) {
    await mkdir(dirname(join(fresh, path)), { recursive: true });
    await writeFile(join(fresh, path), bytes);
  }
  const existing: string[] = await readdir(target).catch(() => []);
  if (existing.length > 0 && !own && !existing.includes('receipt.json'))
    throw new KinkajouError('out.occupied', 'there is something that this run did not write', { file: target }, 'Move it away, and go on with --resume.');
  await mkdir(dirname(target), { recursive: true });
  if (existing.length > 0) await rename(target, join(work, randomUUID()));
  else await rm(target, { recursive: true, force: true });
  await rename(fresh, target);
}

async function writeWhole(work: string, target: string, bytes: Uint8Array): Promise<void> {
  const fresh = join(work, randomUUID());
  await writeFile(fresh, bytes);
  await rename(fresh, target);
}

/** Writes the report anew, one writing after the other. */
class Reporter {
  private last: Promise<void> = Promise.resolve();

  constructor(private readonly out: string) {}

  write(entries: readonly BatchEntry[]): Promise<void> {
    const assets = [...entries].sort((a, b) => (a.path < b.path ? -1 : 1));
    const bytes = new TextEncoder().encode(`${JSON.stringify({ batch: 1, assets }, null, 2)}\n`);
    this.last = this.last.then(() => writeWhole(join(this.out, OWN, WORK), join(this.out, REPORT), bytes));
    return this.last;
  }
}

/** Works on so many at a time, in order. */
async function inTurn<T>(items: readonly T[], width: number, work: (item: T) => Promise<void>): Promise<void> {
  let next = 0;
  const walk = async () => {
    while (next < items.length) {
      const item = items[next];
      next += 1;
      await work(item);
    }
  };
  await Promise.all(Array.from({ length: Math.min(width, items.length) }, walk));
}

function hashOf(value: unknown): string {
  return createHash('sha256').update(JSON.stringify(value)).digest('hex');
}

function hashOfImages(images: readonly ParcelImage[]): string {
  return hashOf(images.map(({ path, sha256: hash }) => [path, hash]).sort());
}

function lineOf({ path, verdict, edits, left, error }: BatchEntry): string {
  if (error) return `${path}: not read, ${error.message}`;
  const done = edits.length > 0 ? `, ${edits.length} ${edits.length === 1 ? 'edit' : 'edits'}` : '';
  return `${path}: ${verdict ?? 'handed to nobody'}${done}${left.length > 0 ? `, ${left.length} left` : ''}`;
}

/** What came of all: by verdict, and what is left by kind. */
function tableOf(entries: readonly BatchEntry[]): string[] {
  const counts = new Map<string, number>();
  const add = (word: string) => counts.set(word, (counts.get(word) ?? 0) + 1);
  for (const { verdict, error } of entries) add(error ? 'not read' : (verdict ?? 'handed to nobody'));
  const kinds = new Map<string, number>();
  for (const { left } of entries) for (const { code } of left) kinds.set(code, (kinds.get(code) ?? 0) + 1);
  const rows = [
    ['assets', String(entries.length)],
    ...[...counts].sort().map(([word, count]) => [word, String(count)]),
    ...[...kinds].sort().map(([code, count]) => [`left ${code}`, String(count)]),
  ];
  const width = Math.max(...rows.map(([word]) => word.length));
  return ['', ...rows.map(([word, count]) => `${word.padEnd(width)}  ${count.padStart(6)}`)];
}
