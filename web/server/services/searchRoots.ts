import { realpath, stat } from 'node:fs/promises';
import { isAbsolute, relative } from 'node:path';
import { scanImage } from '@kinkajou/core/asset/scanImages';
import { KinkajouError } from '@kinkajou/core/errors';
import { isImagePath } from '@kinkajou/core/images/format';
import { foldName } from '@kinkajou/core/links/fileIndex';
import { stemOf } from '@kinkajou/core/parcel/fileSource';
import { folderSource } from '@kinkajou/core/parcel/folderSource';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { and, count, eq, inArray, isNotNull, sql } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { rootFiles, searchRoots } from '../db/schema.ts';
import { allowedFolders } from '../env.ts';
import { publish } from '../events.ts';
import { enqueue } from '../jobs/queue.ts';
import type { JobEnd, JobRun } from '../jobs/runJob.ts';
import { log } from '../log.ts';
import { notFound } from '../respond.ts';
import { moveKnowledge } from './revisions.ts';

/** A folder in which missing images are looked for. */
export interface SearchRoot {
  id: number;
  path: string;
  state: 'waiting' | 'indexing' | 'ready' | 'failed';
  message: string;
  files: number;
  hashed: number;
  indexedAt: string | null;
}

const TELL_MS = 700;
const INSERT_AT_ONCE = 1000;

/** All such folders with the number of their files. */
export async function listRoots(): Promise<SearchRoot[]> {
  const rows = await db()
    .select({ root: searchRoots, files: count(rootFiles.id), hashed: count(rootFiles.sha256) })
    .from(searchRoots)
    .leftJoin(rootFiles, eq(rootFiles.rootId, searchRoots.id))
    .groupBy(searchRoots.id)
    .orderBy(searchRoots.path);
  return rows.map(({ root: { id, path, state, message, indexedAt }, files, hashed }) => ({
    id,
    path,
    state,
    message,
    files,
    hashed,
    indexedAt: indexedAt?.toISOString() ?? null,
  }));
}

/** The real path of a folder that may be read. Throws `folder.missing` and `folder.notAllowed`. */
export async function allowedFolder(path: string): Promise<string> {
  const required = path.trim();
  if (!isAbsolute(required))
    throw new KinkajouError('folder.relative', 'the path must be absolute', { file: required });
  const real = await realpath(required).catch(() => null);
  if (!real || !(await stat(real)).isDirectory())
    throw new KinkajouError(
      'folder.missing',
      'there is no such folder on the server',
      { file: required },
      'Check the spelling.',
    );
  for (const base of allowedFolders()) {
    const root = await realpath(base).catch(() => null);
    const below = root === null ? '..' : relative(root, real);
    if (!below.startsWith('..') && !isAbsolute(below)) return real;
  }
  throw new KinkajouError(
    'folder.notAllowed',
    'this folder may not be read',
    { file: required },
    `Allowed are folders below ${allowedFolders().join(', ')}; KINKAJOU_FOLDERS names others.`,
  );
}

/** Adds a folder and has it indexed; throws `folder.known` where it is one already. */
export async function addRoot(path: string): Promise<void> {
  const real = await allowedFolder(path);
  const [row] = await db().insert(searchRoots).values({ path: real }).onConflictDoNothing().returning();
  if (!row) throw new KinkajouError('folder.known', 'this folder is searched already', { file: real });
  await enqueue('index-root', { rootId: row.id });
  await publish({ topic: 'settings', id: 'roots' });
}

/** Has a folder indexed anew. */
export async function reindexRoot(id: number): Promise<void> {
  const [row] = await db()
    .update(searchRoots)
    .set({ state: 'waiting', message: '' })
    .where(eq(searchRoots.id, id))
    .returning();
  if (!row) throw notFound('search folder');
  await enqueue('index-root', { rootId: id });
  await publish({ topic: 'settings', id: 'roots' });
}

/** Forgets a folder and its files. */
export async function removeRoot(id: number): Promise<void> {
  await db().delete(searchRoots).where(eq(searchRoots.id, id));
  await moveKnowledge();
  await publish({ topic: 'settings', id: 'roots' });
}

/** Has every search folder listed again that is not being listed already. */
export async function refreshRoots(): Promise<void> {
  const rows = await db()
    .select({ id: searchRoots.id })
    .from(searchRoots)
    .where(inArray(searchRoots.state, ['ready', 'failed']));
  for (const { id } of rows) await enqueue('index-root', { rootId: id });
}

/** The job: names and sizes first, then hashes and headers of what is new or changed. */
export async function indexRoot({ data: { rootId: id }, progress }: JobRun<'index-root'>): Promise<void> {
  const [root] = await db().select().from(searchRoots).where(eq(searchRoots.id, id));
  if (!root) return;
  const set = async (values: Partial<typeof searchRoots.$inferInsert>) => {
    await db().update(searchRoots).set(values).where(eq(searchRoots.id, id));
    await publish({ topic: 'settings', id: 'roots' });
  };
  await set({ state: 'indexing', message: 'listing files' });
  try {
    await listFiles(id, root.path);
  } catch (error) {
    if (error instanceof KinkajouError) throw error;
    log.warn({ err: error }, 'search folder');
    throw new KinkajouError(
      'folder.unreadable',
      'it cannot be read any more',
      { file: root.path },
      'Look whether it is still there, then have it indexed again.',
    );
  }
  await hashFiles(id, root.path, async (done, total) => {
    progress(done / total, `reading ${done} of ${total} images`);
    await set({ message: `reading ${done} of ${total} images` });
  });
  await set({ state: 'ready', message: '', indexedAt: new Date() });
  await moveKnowledge();
  await publish({ topic: 'shelf', id: 'roots' });
}

/** Notes that a folder could not be indexed. */
export async function rootEnded({ rootId }: { rootId: number }, { fault }: JobEnd): Promise<void> {
  await db()
    .update(searchRoots)
    .set({ state: 'failed', message: fault?.message ?? 'stopped' })
    .where(eq(searchRoots.id, rootId));
  await publish({ topic: 'settings', id: 'roots' });
}

/** Brings the list of files up to date; changed files lose their hash. */
async function listFiles(rootId: number, path: string): Promise<void> {
  const source = await folderSource(path, { limits: limitsFromEnvironment(), partial: true });
  const found = source.files.filter((file) => isImagePath(file.path));
  const existing = new Map(
    (await db().select().from(rootFiles).where(eq(rootFiles.rootId, rootId))).map((row) => [row.path, row]),
  );
  const there = new Set(found.map((file) => file.path));
  const gone = [...existing.values()].filter((row) => !there.has(row.path)).map((row) => row.id);
  const changed = found.filter((file) => {
    const row = existing.get(file.path);
    return (
      !row || row.size !== file.size || row.modified.getTime() !== (file.modified ?? new Date(0)).getTime()
    );
  });
  for (let i = 0; i < gone.length; i += INSERT_AT_ONCE)
    await db()
      .delete(rootFiles)
      .where(inArray(rootFiles.id, gone.slice(i, i + INSERT_AT_ONCE)));
  for (let i = 0; i < changed.length; i += INSERT_AT_ONCE) {
    const rows = changed.slice(i, i + INSERT_AT_ONCE).map((file) => ({
      rootId,
      path: file.path,
      stem: foldName(stemOf(file.path)),
      size: file.size,
      modified: file.modified ?? new Date(0),
      sha256: null,
      info: null,
    }));
    await db()
      .insert(rootFiles)
      .values(rows)
      .onConflictDoUpdate({
        target: [rootFiles.rootId, rootFiles.path],
        set: { size: sql`excluded.size`, modified: sql`excluded.modified`, sha256: null, info: null },
      });
  }
}

async function hashFiles(
  rootId: number,
  path: string,
  report: (done: number, total: number) => Promise<void>,
): Promise<void> {
  const source = await folderSource(path, { limits: limitsFromEnvironment(), partial: true });
  const rows = await db().select().from(rootFiles).where(eq(rootFiles.rootId, rootId));
  const open = rows.filter((row) => row.sha256 === null);
  let reported = Date.now();
  for (const [i, row] of open.entries()) {
    const bytes = await source.read(row.path).catch(() => null);
    if (!bytes) continue;
    const { sha256, info } = await scanImage(row.path, bytes, row.modified, limitsFromEnvironment());
    await db().update(rootFiles).set({ sha256, info }).where(eq(rootFiles.id, row.id));
    if (Date.now() - reported < TELL_MS) continue;
    reported = Date.now();
    await report(i + 1, open.length);
  }
}

/** The file on disk that holds a content, for pictures of images that are not taken in yet. */
export async function rootFileWith(sha256: string): Promise<string | null> {
  const [found] = await db()
    .select({ root: searchRoots.path, path: rootFiles.path })
    .from(rootFiles)
    .innerJoin(searchRoots, eq(searchRoots.id, rootFiles.rootId))
    .where(and(eq(rootFiles.sha256, sha256), isNotNull(rootFiles.info)))
    .limit(1);
  return found ? `${found.root}/${found.path}` : null;
}
