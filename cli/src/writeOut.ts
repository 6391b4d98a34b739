import { randomUUID } from 'node:crypto';
import { mkdir, readdir, readFile, realpath, rename, rm, stat, writeFile } from 'node:fs/promises';
import { dirname, join, relative, resolve } from 'node:path';
import { KinkajouError } from '@kinkajou/core/errors';
import type { Receipt } from '@kinkajou/core/handoff/tell/receipt';
import { sha256 } from '@kinkajou/core/parcel/hash';

/** Files by their path below the folder that they go to. */
export type OutFiles = ReadonlyMap<string, Uint8Array>;

const SHOWN = 3;
const RECEIPT = 'receipt.json';
/** Beside files that stand among others: what wrote them, so that only that may write them again. */
const RECORD = '.kinkajou.json';

interface WrittenRun {
  /** The input, seen from the folder. */
  from: string;
  /** SHA-256 by path. */
  files: Record<string, string>;
}

/**
 * Writes a package as a whole: into a fresh folder beside, which then takes its place. A folder that holds
 * anything is refused as `out.occupied`, unless `replace` is given and all of it is what an earlier handoff
 * of the same asset wrote.
 */
export async function writePackage(
  folder: string,
  files: OutFiles,
  { replace, asset }: { replace: boolean; asset: string },
): Promise<void> {
  const target = resolve(folder);
  const existing = await filesUnder(target);
  if (existing.length > 0) {
    if (!replace) throw occupied(folder, existing);
    await checkOwn(folder, existing, asset);
  }
  await mkdir(dirname(target), { recursive: true });
  const [fresh, old] = [`${target}.${randomUUID()}.part`, `${target}.${randomUUID()}.old`];
  try {
    await writeAll(fresh, files);
    if (existing.length > 0) await rename(target, old);
    await rename(fresh, target);
  } catch (error) {
    await rm(fresh, { recursive: true, force: true });
    if (existing.length > 0) await rename(old, target).catch(() => undefined);
    throw error;
  }
  await rm(old, { recursive: true, force: true });
}

/**
 * Throws `out.occupied` where files lie in a folder that a package is to become, before the work of making
 * it.
 */
export async function checkFree(folder: string, replace: boolean): Promise<void> {
  if (replace) return;
  const entries = await readdir(folder, { withFileTypes: true }).catch(() => []);
  const files = entries.filter((entry) => !entry.isDirectory()).map(({ name }) => name);
  if (files.length > 0) throw occupied(folder, files);
}

/** All that lies there must be the earlier package's, as it was. */
async function checkOwn(folder: string, existing: readonly string[], asset: string): Promise<void> {
  const receipt = await readJson<Receipt>(join(folder, RECEIPT));
  if (receipt?.asset?.name !== asset || !Array.isArray(receipt.outputs))
    throw refused(folder, 'it holds no package that an earlier run made of this asset');
  const known = new Map(receipt.outputs.map(({ path, sha256: hash }) => [path, hash]));
  const foreign = existing.filter((path) => path !== RECEIPT && !known.has(path));
  if (foreign.length > 0)
    throw refused(
      folder,
      `${listed(foreign)} ${foreign.length === 1 ? 'was' : 'were'} not written by the earlier run`,
    );
  for (const path of existing)
    if (path !== RECEIPT && sha256(await readFile(join(folder, path))) !== known.get(path))
      throw refused(folder, `${path} was changed since it was written`);
}

/** Files that go into a folder. */
export interface Placed {
  folder: string;
  files: OutFiles;
  /** What it is made of, as a path. */
  from: string;
  replace: boolean;
}

/**
 * Writes files among others, each whole or not at all. A place that is taken is refused as `out.occupied`,
 * unless `replace` is given and the file there is what an earlier run of the same input wrote. The input is
 * never written over.
 */
export async function writeBeside({ folder, files, from, replace }: Placed): Promise<void> {
  await checkSource(folder, files, from);
  const record = join(folder, RECORD);
  const runs = (await readJson<{ written: WrittenRun[] }>(record))?.written ?? [];
  const origin = relative(resolve(folder), resolve(from));
  const own: Record<string, string> = Object.assign(
    Object.create(null),
    runs.find((run) => run.from === origin)?.files,
  );
  const taken: string[] = [];
  for (const [path, bytes] of files) {
    const there = await readFile(join(folder, path)).catch(() => null);
    // The very same is no loss, such as an image that two models share.
    if (!there || Buffer.compare(there, bytes) === 0) continue;
    if (!replace) taken.push(path);
    else if (own[path] === undefined)
      throw refused(folder, `${path} was not written by an earlier run of ${from}`);
    else if (sha256(there) !== own[path]) throw refused(folder, `${path} was changed since it was written`);
  }
  if (taken.length > 0) throw occupied(folder, taken);
  await mkdir(folder, { recursive: true });
  const fresh = join(folder, `.${randomUUID()}.part`);
  try {
    await writeAll(fresh, files);
    for (const path of files.keys()) {
      await mkdir(dirname(join(folder, path)), { recursive: true });
      await rename(join(fresh, path), join(folder, path));
    }
  } finally {
    await rm(fresh, { recursive: true, force: true });
  }
  const hashes = Object.fromEntries([...files].map(([path, bytes]) => [path, sha256(bytes)]));
  const written = [
    ...runs.filter((run) => run.from !== origin),
    { from: origin, files: { ...own, ...hashes } },
  ];
  await writeFile(`${record}.part`, JSON.stringify({ written }, null, 2));
  await rename(`${record}.part`, record);
}

/** Whether a file lies at a path with other content. */
export async function isTaken(path: string, bytes: Uint8Array): Promise<boolean> {
  const there = await readFile(path).catch(() => null);
  return there !== null && Buffer.compare(there, bytes) !== 0;
}

/** Throws `out.source` where a file would take the place of the input. */
async function checkSource(folder: string, files: OutFiles, from: string): Promise<void> {
  const source = await realpath(from).catch(() => null);
  if (source === null || (await stat(source)).isDirectory()) return;
  for (const path of files.keys())
    if ((await realpath(join(folder, path)).catch(() => null)) === source)
      throw new KinkajouError(
        'out.source',
        'this is the input itself, which is never written over',
        { file: join(folder, path) },
        'Name another file or folder.',
      );
}

async function writeAll(folder: string, files: OutFiles): Promise<void> {
  for (const [path, bytes] of files) {
    await mkdir(dirname(join(folder, path)), { recursive: true });
    await writeFile(join(folder, path), bytes);
  }
}

/** Paths of all files below a folder; none where there is no folder. */
async function filesUnder(folder: string): Promise<string[]> {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true }).catch(
    (error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return [];
      if (error.code === 'ENOTDIR')
        throw new KinkajouError(
          'out.occupied',
          'this is a file, and a folder is needed',
          { file: folder },
          'Name another folder.',
        );
      throw error;
    },
  );
  return entries
    .filter((entry) => !entry.isDirectory())
    .map((entry) => relative(folder, join(entry.parentPath, entry.name)).replaceAll('\\', '/'));
}

async function readJson<T>(path: string): Promise<T | null> {
  try {
    return JSON.parse(await readFile(path, 'utf8')) as T;
  } catch {
    return null;
  }
}

function occupied(folder: string, paths: readonly string[]): KinkajouError {
  return new KinkajouError(
    'out.occupied',
    `${listed(paths)} ${paths.length === 1 ? 'is' : 'are'} there already`,
    { file: folder },
    'Name another place, or add --replace to write over what an earlier run of the same input wrote.',
  );
}

function refused(folder: string, why: string): KinkajouError {
  return new KinkajouError(
    'out.occupied',
    `nothing was replaced: ${why}`,
    { file: folder },
    'Name another place.',
  );
}

function listed(paths: readonly string[]): string {
  const rest = paths.length - SHOWN;
  return paths.slice(0, SHOWN).join(', ') + (rest > 0 ? ` and ${rest} more` : '');
}
