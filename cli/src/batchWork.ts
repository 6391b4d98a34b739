import { createHash, randomUUID } from 'node:crypto';
import { mkdir, readdir, rename, rm, stat, writeFile } from 'node:fs/promises';
import { dirname, join, relative, resolve, sep } from 'node:path';
import type { ParcelImage } from '@kinkajou/core/asset/asset';
import { imagesOnGround } from '@kinkajou/core/asset/ownImages';
import type { Destination } from '@kinkajou/core/destinations/profile';
import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import { installGuard } from '@kinkajou/core/guard/guard';
import { ThreadGuard } from '@kinkajou/core/guard/threads';
import { handOff } from '@kinkajou/core/handoff/handoff';
import { type Receipt, recordOf } from '@kinkajou/core/handoff/tell/receipt';
import { type MendLevel, openAsset } from '@kinkajou/core/inspect';
import type { HouseWords } from '@kinkajou/core/maps/nameSpans';
import type { FileSource } from '@kinkajou/core/parcel/fileSource';
import { folderSource } from '@kinkajou/core/parcel/folderSource';
import { sha256 } from '@kinkajou/core/parcel/hash';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { openZipsOf } from '@kinkajou/core/parcel/openSource';
import { workerData } from 'piscina';
import { memoryCache, pictureOf } from './handoff.ts';
import type { Output } from './output.ts';
import { type OpenRulebook, type OutsideFolder, openOutside, settleWithRules } from './rules.ts';

/** One asset of a run, as `batch.json` has it. */
export interface BatchEntry {
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
export interface Kept {
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

/** What the run keeps for itself, below the output. */
export const OWN = '.kinkajou-batch';
/** Folder below the output in which results are written before they get their names. */
export const WORK = 'work';

/** All that a thread needs to know of a run: plain data. */
export interface BatchPlan {
  dir: string;
  out: string;
  /** Destinations that every asset goes to, as they were named. */
  to: string[];
  destinations: ReadonlyMap<string, Destination>;
  books: OpenRulebook[];
  level: MendLevel;
  house: HouseWords | undefined;
  /** Every image of the folder. */
  images: ParcelImage[];
  /** All of the above as one hash. */
  call: string;
}

/** A plan with its files open. */
export interface Work extends BatchPlan {
  source: FileSource;
  outside: OutsideFolder[];
}

/** One model of a batch. */
export interface BatchTask {
  model: string;
  /** Where its package lies. */
  folder: string;
  /** Packages that an earlier run made of it. */
  before: string[];
}

/** Opens what every task of a batch reads: its source and the places that rules may name. */
export async function openWork(plan: BatchPlan): Promise<Work> {
  return {
    ...plan,
    source: await withZips(await sourceOf(plan.dir, plan.out), plan.out),
    outside: await openOutside(plan.books, plan.dir),
  };
}

/**
 * Models of a batch are all read where they can be stopped: one that never ends must not take the others
 * along.
 */
export function guardBatch(): ThreadGuard {
  const guard = new ThreadGuard(
    new URL('../../core/src/guard/thread.mjs', import.meta.url),
    limitsFromEnvironment(),
  );
  installGuard(guard);
  return guard;
}

let opened: Promise<Work> | null = null;

/** Settles and hands off one asset in a thread of its own, which opens the folder once. */
export default async function workInThread(task: BatchTask): Promise<Kept> {
  opened ??= (async () => {
    guardBatch();
    return openWork(workerData as BatchPlan);
  })();
  return makeOne(task, await opened);
}

/** Settles and hands off one asset. What goes wrong is told in its entry, so that the rest can go on. */
export async function makeOne({ model, folder: home, before }: BatchTask, work: Work): Promise<Kept> {
  const { source, images, books, level, house, to, out, call, dir, outside } = work;
  // Destinations of one asset share what they bake alike.
  const cache = memoryCache();
  const read: Record<string, string> = {};
  const blank: BatchEntry = { path: model, verdict: null, out: null, edits: [], left: [], error: null };
  const packages: Record<string, string> = {};
  let own = false;
  try {
    const asset = await openAsset(tracked(source, read), model, limitsFromEnvironment(), images);
    const many = work.destinations.size > 1;
    const prefers = [...work.destinations.values()].every(({ workflow }) => workflow === 'specGloss')
      ? ('specGloss' as const)
      : ('metalRough' as const);
    const settled = await settleWithRules(asset, QUIET, {
      books,
      root: dir,
      parcel: source.name,
      level,
      house,
      prefers,
      outside,
    });
    // What is missing may be anywhere; else only what the model may call its own matters.
    const seeks = settled.state.images.some(({ status }) => status === 'missing');
    own = !seeks;
    const picture = await pictureOf(settled.asset, settled.state);
    const entry: BatchEntry = { ...blank, edits: settled.edits.map(recordOf), left: settled.left };
    for (const [word, destination] of work.destinations) {
      if (!to.includes(word) && !settled.handOffs.includes(word)) continue;
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
      const folder = [...(many ? [destination.id] : []), home].join('/');
      await placePackage(join(out, OWN, WORK), join(out, folder), result.files, before.includes(folder));
      packages[folder] = sha256(result.files.get('receipt.json') ?? new Uint8Array());
      entry.out ??= folder;
      entry.verdict = worse(entry.verdict, result.receipt.verdict);
    }
    return {
      entry,
      call,
      read,
      images: { hash: hashOfImages(own ? imagesOnGround(asset.source, images) : images), own },
      packages,
    };
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
const QUIET: Output = { text: () => undefined, message: () => undefined, json: () => undefined };

/** The folder without what the run itself writes, should that lie below it. */
export async function sourceOf(dir: string, out: string): Promise<FileSource> {
  const there = await stat(dir).catch(() => null);
  if (!there?.isDirectory())
    throw new KinkajouError(
      'call.folder',
      there ? 'this is no folder' : 'there is no such folder',
      { file: dir },
      'Name the folder that holds the models.',
    );
  const source = await folderSource(dir, { limits: limitsFromEnvironment() });
  const within = relative(resolve(dir), out).split(sep).join('/');
  if (within === '')
    throw new KinkajouError(
      'out.source',
      'packages cannot go into the folder that they are made of',
      { file: dir },
      'Name another folder with --out.',
    );
  return within.startsWith('..')
    ? source
    : { ...source, files: source.files.filter(({ path }) => !path.startsWith(`${within}/`)) };
}

/** The folder with its zips opened; what must be unpacked for it goes with the run's work. */
export function withZips(folder: FileSource, out: string): Promise<FileSource> {
  return openZipsOf(folder, limitsFromEnvironment(), join(out, OWN, WORK));
}

/**
 * Moves a package to its place once it is whole. What lies there must be an earlier package of the same run.
 */
async function placePackage(
  work: string,
  target: string,
  files: ReadonlyMap<string, Uint8Array>,
  own: boolean,
): Promise<void> {
  const fresh = join(work, randomUUID());
  for (const [path, bytes] of files) {
    await mkdir(dirname(join(fresh, path)), { recursive: true });
    await writeFile(join(fresh, path), bytes);
  }
  const existing: string[] = await readdir(target).catch(() => []);
  if (existing.length > 0 && !own && !existing.includes('receipt.json'))
    throw new KinkajouError(
      'out.occupied',
      'there is something that this run did not write',
      { file: target },
      'Move it away, and go on with --resume.',
    );
  await mkdir(dirname(target), { recursive: true });
  if (existing.length > 0) await rename(target, join(work, randomUUID()));
  else await rm(target, { recursive: true, force: true });
  await rename(fresh, target);
}

/** Writes beside and renames, so that nobody ever reads half a file. */
export async function writeWhole(work: string, target: string, bytes: Uint8Array): Promise<void> {
  const fresh = join(work, randomUUID());
  await writeFile(fresh, bytes);
  await rename(fresh, target);
}

/** SHA-256 of a value's JSON. */
export function hashOf(value: unknown): string {
  return createHash('sha256').update(JSON.stringify(value)).digest('hex');
}

/** One hash for paths and contents of images, in any order. */
export function hashOfImages(images: readonly ParcelImage[]): string {
  return hashOf(images.map(({ path, sha256: hash }) => [path, hash]).sort());
}
