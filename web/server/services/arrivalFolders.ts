import { isAbsolute, relative } from 'node:path';
import { KinkajouError } from '@kinkajou/core/errors';
import { asc, count, eq, ne } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { arrivalEntries, arrivalFolders } from '../db/schema.ts';
import { publish } from '../events.ts';
import { ordersOf } from './arrivals.ts';
import { allowedFolder } from './searchRoots.ts';

type EntryState = 'working' | 'done' | 'asks' | 'failed';

/** A folder that is watched, with what became of its arrivals. */
export interface ArrivalFolder {
  id: string;
  path: string;
  rules: string[];
  destinations: string[];
  mend: boolean;
  output: string | null;
  message: string;
  seenAt: string | null;
  /** How many entries stand how. */
  entries: Record<EntryState, number>;
  /** What a person has to look at, some of them. */
  notes: { name: string; note: string }[];
}

/** A folder to watch, and what is done with what arrives. */
export interface ArrivalFolderRequest {
  path: string;
  rules: string[];
  destinations: string[];
  mend: boolean;
  output: string | null;
}

const MOST_NOTES = 100;

/** All watched folders with their counts, by path. */
export async function listArrivalFolders(): Promise<ArrivalFolder[]> {
  const rows = await db().select().from(arrivalFolders).orderBy(asc(arrivalFolders.path));
  const counts = await db()
    .select({ folderId: arrivalEntries.folderId, state: arrivalEntries.state, total: count() })
    .from(arrivalEntries)
    .groupBy(arrivalEntries.folderId, arrivalEntries.state);
  const notes = await db()
    .select({ folderId: arrivalEntries.folderId, name: arrivalEntries.name, note: arrivalEntries.note })
    .from(arrivalEntries)
    .where(ne(arrivalEntries.note, ''))
    .orderBy(asc(arrivalEntries.name))
    .limit(MOST_NOTES);
  return rows.map(({ createdAt: _createdAt, seenAt, ...row }) => {
    const entries = { working: 0, done: 0, asks: 0, failed: 0 };
    for (const { folderId, state, total } of counts) if (folderId === row.id) entries[state] = total;
    const own = notes.filter(({ folderId }) => folderId === row.id).map(({ name, note }) => ({ name, note }));
    return { ...row, seenAt: seenAt?.toISOString() ?? null, entries, notes: own };
  });
}

/**
 * Has whatever lies in a folder, and comes into it, taken in. Throws where a word stands for nothing, or a
 * folder may not be used.
 */
export async function addArrivalFolder({ path, output, ...asked }: ArrivalFolderRequest): Promise<void> {
  await ordersOf(asked);
  if (output !== null && asked.destinations.length === 0)
    throw new KinkajouError(
      'arrival.output',
      'there is nothing to write: no destination is named',
      { file: output },
      'Name a destination, or no output folder.',
    );
  const real = await allowedFolder(path);
  const out = output === null ? null : await allowedFolder(output);
  for (const [inner, outer] of out === null
    ? []
    : [
        [out, real],
        [real, out],
      ])
    if (isWithin(inner, outer))
      throw new KinkajouError(
        'arrival.output',
        'what is written would come in again',
        { file: inner },
        'Name an output folder beside the one that is watched.',
      );
  const [row] = await db()
    .insert(arrivalFolders)
    .values({ ...asked, path: real, output: out })
    .onConflictDoNothing()
    .returning();
  if (!row)
    throw new KinkajouError(
      'folder.known',
      'this folder is watched already',
      { file: real },
      'Remove it first, to have other things done.',
    );
  await publish({ topic: 'settings', id: 'arrivals' });
}

/** Its entries are forgotten with it; parcels that came, and packages that were written, stay. */
export async function removeArrivalFolder(id: string): Promise<void> {
  await db().delete(arrivalFolders).where(eq(arrivalFolders.id, id));
  await publish({ topic: 'settings', id: 'arrivals' });
}

function isWithin(inner: string, outer: string): boolean {
  const below = relative(outer, inner);
  return !below.startsWith('..') && !isAbsolute(below);
}
