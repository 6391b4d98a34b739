import { createHash } from 'node:crypto';
import { mkdir, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join, resolve, sep } from 'node:path';
import { groundOf, imagesOnGround } from '@kinkajou/core/asset/ownImages';
import { scanImages } from '@kinkajou/core/asset/scanImages';
import type { Destination } from '@kinkajou/core/destinations/profile';
import { resolveChoices } from '@kinkajou/core/destinations/resolveChoices';
import { KinkajouError } from '@kinkajou/core/errors';
import type { Receipt } from '@kinkajou/core/handoff/tell/receipt';
import { listModels, noModelIn } from '@kinkajou/core/inspect';
import { extensionOf, folderOf, stemOf } from '@kinkajou/core/parcel/fileSource';
import { sha256 } from '@kinkajou/core/parcel/hash';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { Piscina } from 'piscina';
import {
  type BatchEntry,
  type BatchPlan,
  type BatchTask,
  guardBatch,
  hashOf,
  hashOfImages,
  type Kept,
  makeOne,
  OWN,
  sourceOf,
  WORK,
  type Work,
  withZips,
  writeWhole,
} from './batchWork.ts';
import { mendLevel } from './facts.ts';
import { destinationOf } from './handoff.ts';
import { EXIT, type Output } from './output.ts';
import { type OpenRulebook, openOutside, readRulebooks } from './rules.ts';
import { readWords } from './words.ts';

/** Options of `kinkajou batch` as they are typed. */
export interface BatchOptions {
  to: string[];
  out: string;
  rules: string[];
  mend: string;
  words?: string;
  threads: string;
  resume?: boolean;
  json?: boolean;
}

/** For fewer models, threads take longer to start than they save. */
const WORTH_THREADS = 8;
const RECORDS = 'assets';
const REPORT = 'batch.json';

/**
 * Hands every model below a folder to its destinations, several at a time. Packages appear whole or not at
 * all, and `batch.json` is written anew after each asset. A model that cannot be read is told, and the rest
 * go on.
 */
export async function runBatch(dir: string, options: BatchOptions, output: Output): Promise<number> {
  const level = mendLevel(options.mend);
  const books = await readRulebooks(options.rules);
  const house = await readWords(options.words);
  const words = [...new Set([...options.to, ...handOffsOf(books)])];
  if (words.length === 0)
    throw new KinkajouError('call.destination', '--to is missing', {}, 'See "kinkajou destinations".');
  const destinations = new Map<string, Destination>();
  for (const word of words) destinations.set(word, await destinationOf(word));
  for (const destination of destinations.values()) resolveChoices(destination);
  const threads = Number(options.threads);
  if (!(Number.isInteger(threads) && threads >= 1 && threads <= 64))
    throw new KinkajouError(
      'call.threads',
      `--threads is "${options.threads}"`,
      {},
      'Give a number from 1 to 64.',
    );
  const out = resolve(options.out);
  const folder = await sourceOf(dir, out);
  await prepareOut(out, options, dir);
  const source = await withZips(folder, out);
  for (const notice of source.notices) output.message(`${notice.path}: ${notice.message}.`);
  const limits = limitsFromEnvironment();
  const models = listModels(source).sort();
  if (models.length === 0) throw noModelIn(dir, source.files);
  const images = await scanImages(source, limits);
  const outside = await openOutside(books, dir);
  const elsewhere = outside.map(({ images: found }) => hashOfImages(found));
  const call = hashOf({
    elsewhere,
    books: books.map(({ text }) => text),
    to: options.to,
    destinations: [...destinations.values()],
    level,
    house,
  });
  const plan: BatchPlan = { dir, out, to: options.to, destinations, books, level, house, images, call };
  const run: Run = { ...plan, source, outside, resume: options.resume === true, folders: foldersOf(models) };
  const workers = Math.min(threads, models.length);
  const pool = workers > 1 && models.length >= WORTH_THREADS ? createPool(workers, plan) : null;
  const guard = pool ? null : guardBatch();
  const make = (task: BatchTask): Promise<Kept> =>
    pool ? (pool.run(task) as Promise<Kept>) : makeOne(task, run);
  const entries = new Map<string, BatchEntry>();
  const report = new Reporter(out);
  try {
    await inTurn(models, workers, async (model) => {
      const entry = await settleOne(model, run, make);
      entries.set(model, entry);
      if (!options.json) output.text(lineOf(entry));
      await report.write([...entries.values()]);
    });
  } finally {
    await pool?.destroy();
    await guard?.close();
    await source.close();
  }
  await rm(join(out, OWN, WORK), { recursive: true, force: true });
  const all = models.flatMap((model) => entries.get(model) ?? []);
  if (options.json) output.json({ batch: 1, assets: all });
  else for (const line of tableOf(all)) output.text(line);
  return all.every(({ error, left, verdict }) => !error && left.length === 0 && verdict !== 'failed')
    ? EXIT.done
    : EXIT.errorsRemain;
}

function handOffsOf(books: readonly OpenRulebook[]): string[] {
  return books.flatMap(({ book }) =>
    book.rules.flatMap(({ then }) =>
      then.flatMap((action) => (action.do === 'handOff' ? [action.to].flat() : [])),
    ),
  );
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
    throw new KinkajouError(
      'out.occupied',
      'no run of this folder wrote there',
      { file: written },
      'Name the folder of the run that is to go on.',
    );
  // What a killed run had begun.
  await rm(join(out, OWN, WORK), { recursive: true, force: true });
  await mkdir(join(out, OWN, WORK), { recursive: true });
  await mkdir(join(out, OWN, RECORDS), { recursive: true });
  if (from === null) await writeFile(join(out, OWN, 'from'), resolve(dir));
}

/**
 * Where each model's package lies below the output; a stem that comes twice in a folder takes its extension.
 */
function foldersOf(models: readonly string[]): Map<string, string> {
  const plain = (model: string) => join(folderOf(model), stemOf(model)).split(sep).join('/');
  const count = new Map<string, number>();
  for (const model of models) count.set(plain(model), (count.get(plain(model)) ?? 0) + 1);
  return new Map(
    models.map((model) => [
      model,
      (count.get(plain(model)) ?? 0) > 1 ? `${plain(model)}_${extensionOf(model)}` : plain(model),
    ]),
  );
}

interface Run extends Work {
  resume: boolean;
  folders: ReadonlyMap<string, string>;
}

function createPool(threads: number, plan: BatchPlan): Piscina {
  return new Piscina({
    filename: new URL('./batchThread.mjs', import.meta.url).href,
    minThreads: threads,
    maxThreads: threads,
    workerData: plan,
    execArgv: ['--no-deprecation'],
  });
}

async function settleOne(
  model: string,
  run: Run,
  make: (task: BatchTask) => Promise<Kept>,
): Promise<BatchEntry> {
  const record = join(run.out, OWN, RECORDS, `${createHash('sha256').update(model).digest('hex')}.json`);
  const kept = run.resume ? await keptRun(record) : null;
  if (kept && (await isUnchanged(kept, run))) return kept.entry;
  const before = kept ? Object.keys(kept.packages) : [];
  const made = await make({ model, folder: run.folders.get(model) ?? model, before });
  await writeWhole(join(run.out, OWN, WORK), record, new TextEncoder().encode(JSON.stringify(made)));
  return made.entry;
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
  const ground = groundOf(entry.path, listModels(run.source), [...known.keys()]);
  if (images.hash !== hashOfImages(images.own ? imagesOnGround(ground, run.images) : run.images))
    return false;
  for (const [folder, hash] of Object.entries(packages))
    if (!(await isWhole(join(run.out, folder), hash))) return false;
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
async function inTurn<T>(
  items: readonly T[],
  width: number,
  work: (item: T) => Promise<void>,
): Promise<void> {
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
