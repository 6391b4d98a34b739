import { createReadStream } from 'node:fs';
import { mkdir, readdir, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import { createNamer } from '@kinkajou/core/parcel/names';
import { isModelPath } from '@kinkajou/core/readModel';
import { and, eq } from 'drizzle-orm';
import { db } from '../db/client.ts';
import {
  arrivalEntries,
  arrivalFolders,
  type arrivalEntries as EntryTable,
  type arrivalFolders as FolderTable,
  handoffs,
} from '../db/schema.ts';
import { publish } from '../events.ts';
import { log } from '../log.ts';
import { type ArrivalReport, type ArrivingFile, arrivalReport, ordersOf, takeFiles } from './arrivals.ts';
import { unpackPackage } from './unpackPackage.ts';

type Folder = typeof FolderTable.$inferSelect;
type Entry = typeof EntryTable.$inferSelect;

/** Beside what came through lies what a person has to look at, each with its note. */
const ASIDE = 'needs a person';
const NOTE = 'note.txt';

/** Something in a watched folder: one file, or a folder with all that lies below. */
interface Seen {
  name: string;
  stamp: string;
  files: { path: string; full: string; modified: Date }[];
}

/**
 * Looks at folders of arrivals. Whatever is the same at two looks is written to its end and taken in; what
 * has come through is written to its output. One keeper of all looks, one look after the other.
 */
export class ArrivalKeeper {
  /** Stamps of the last look, by folder and name. */
  private before = new Map<string, string>();

  async look(): Promise<void> {
    const now = new Map<string, string>();
    for (const folder of await db().select().from(arrivalFolders)) {
      const message = await this.lookAt(folder, now).catch((error) =>
        toKinkajouError(error, 'folder.unreadable', { file: folder.path }).toText(),
      );
      if (message === folder.message && folder.seenAt !== null) continue;
      await db()
        .update(arrivalFolders)
        .set({ message, seenAt: new Date() })
        .where(eq(arrivalFolders.id, folder.id));
      await publish({ topic: 'settings', id: 'arrivals' });
    }
    this.before = now;
  }

  /** Returns what went wrong with single entries, in words. */
  private async lookAt(folder: Folder, now: Map<string, string>): Promise<string> {
    const wrong: string[] = [];
    const known = new Map(
      (await db().select().from(arrivalEntries).where(eq(arrivalEntries.folderId, folder.id))).map(
        (entry) => [entry.name, entry],
      ),
    );
    for (const seen of await entriesIn(folder.path)) {
      const key = `${folder.id}/${seen.name}`;
      now.set(key, seen.stamp);
      const entry = known.get(seen.name);
      if (entry?.stamp === seen.stamp || entry?.state === 'working' || this.before.get(key) !== seen.stamp)
        continue;
      await take(folder, seen, entry).catch((error) =>
        wrong.push(toKinkajouError(error, 'folder.unreadable', { file: seen.name }).toText()),
      );
    }
    for (const entry of known.values())
      if (entry.state === 'working')
        await settle(folder, entry).catch((error) =>
          wrong.push(toKinkajouError(error, 'arrival.output', { file: entry.name }).toText()),
        );
    return wrong.join('\n');
  }
}

/** Zips, models, and folders that hold a model, with all files of theirs; hidden ones are none. */
async function entriesIn(path: string): Promise<Seen[]> {
  const entries = await readdir(path, { withFileTypes: true });
  const seen: Seen[] = [];
  for (const { name, ...entry } of entries
    .filter((one) => !one.name.startsWith('.'))
    .map((one) => ({ name: one.name, folder: one.isDirectory(), file: one.isFile() }))) {
    if (entry.file && !isTaken(name)) continue;
    const paths = entry.folder ? await filesBelow(join(path, name)) : [''];
    if (entry.folder && !paths.some(isTaken)) continue;
    const files = await Promise.all(
      paths.map(async (below) => {
        const full = below === '' ? join(path, name) : join(path, name, below);
        const { size, mtimeMs } = await stat(full);
        return { path: below === '' ? name : below, full, size, modified: new Date(mtimeMs) };
      }),
    );
    const stamp = files.map((file) => `${file.path} ${file.size} ${file.modified.getTime()}`).join('\n');
    seen.push({ name, stamp, files });
  }
  return seen;
}

function isTaken(path: string): boolean {
  return isModelPath(path) || /\.zip$/i.test(path);
}

async function filesBelow(path: string): Promise<string[]> {
  const entries = await readdir(path, { recursive: true, withFileTypes: true });
  const files = entries.filter((entry) => entry.isFile() && !entry.name.startsWith('.'));
  return files
    .map((entry) =>
      join(entry.parentPath, entry.name)
        .slice(path.length + 1)
        .replaceAll('\\', '/'),
    )
    .sort();
}

async function take(folder: Folder, { name, stamp, files }: Seen, before: Entry | undefined): Promise<void> {
  const arriving: ArrivingFile[] = files.map(({ path, full, modified }) => ({
    path,
    modified,
    open: () => createReadStream(full),
  }));
  const row = { stamp, wrote: before?.wrote ?? [] };
  const taken = await ordersOf(folder)
    .then((orders) => takeFiles(name.replace(/\.zip$/i, ''), orders, arriving))
    .then((parcelId) => ({ ...row, parcelId, state: 'working' as const, note: '' }))
    // What cannot be taken stays so until it changes.
    .catch((error) => ({
      ...row,
      parcelId: null,
      state: 'failed' as const,
      note: toKinkajouError(error, 'folder.unreadable', { file: name }).toText(),
    }));
  await db()
    .insert(arrivalEntries)
    .values({ folderId: folder.id, name, ...taken })
    .onConflictDoUpdate({ target: [arrivalEntries.folderId, arrivalEntries.name], set: taken });
  await publish({ topic: 'settings', id: 'arrivals' });
  log.info({ folder: folder.path, name, state: taken.state }, 'arrival');
}

/** Once nothing of it waits any more, packages and notes are written, and how it ended is kept. */
async function settle(folder: Folder, entry: Entry): Promise<void> {
  const ended = entry.parcelId === null ? null : await arrivalReport(entry.parcelId);
  if (ended?.state === 'reading' || ended?.state === 'working') return;
  const note = ended === null ? 'Its parcel was removed.' : noteOf(ended);
  const state = arrivalState(ended, note);
  const wrote =
    folder.output === null || ended === null ? entry.wrote : await writeOut(folder.output, entry, ended);
  await db()
    .update(arrivalEntries)
    .set({ state, note, wrote })
    .where(and(eq(arrivalEntries.folderId, folder.id), eq(arrivalEntries.name, entry.name)));
  await publish({ topic: 'settings', id: 'arrivals' });
}

type ReportedAsset = ArrivalReport['assets'][number];

function arrivalState(ended: ArrivalReport | null, note: string) {
  if (ended === null || ended.state === 'failed') return 'failed';
  return note === '' ? 'done' : 'asks';
}

/** What a person has to look at, in lines; empty where that is nothing. */
function noteOf({ faults, assets }: ArrivalReport): string {
  const lines = faults.map(({ file, message, hint }) => [file, message, hint].filter(Boolean).join(': '));
  if (assets.length === 0 && faults.length === 0) lines.push('There was no model in it.');
  return [...lines, ...assets.flatMap(notesOf)].join('\n');
}

function notesOf({ name, findings, asks, packages }: ReportedAsset): string[] {
  const lost = packages.filter(({ state, verdict }) => state !== 'done' || verdict === 'failed');
  return [
    ...(findings.error > 0
      ? [
          `${name} has ${findings.error === 1 ? 'one finding that is an error' : `${findings.error} findings that are errors`}`,
        ]
      : []),
    ...(asks.length > 0 ? [`${name} asks: ${asks.join(', ')}`] : []),
    ...lost.map(
      ({ destination, state, verdict }) =>
        `${name} for ${destination}: ${state === 'done' ? `the receipt says ${verdict}` : 'no package was made'}`,
    ),
  ];
}

const NO_FINDINGS = { error: 0, warning: 0, note: 0 };

/** The entry's name without its type; with it where another entry has the same stem. */
async function folderFor({ folderId, name }: Entry): Promise<string> {
  const stem = stemOf(name);
  const others = await db()
    .select({ name: arrivalEntries.name })
    .from(arrivalEntries)
    .where(eq(arrivalEntries.folderId, folderId));
  const shared = others.some((other) => other.name !== name && stemOf(other.name) === stem);
  return shared ? name.replaceAll('.', '_') : stem;
}

function stemOf(name: string): string {
  return isTaken(name) ? name.replace(/\.[^.]+$/, '') : name;
}

/**
 * Writes the packages of each asset, what came before of the same entry first taken away. Returns the folders
 * written.
 */
async function writeOut(output: string, entry: Entry, report: ArrivalReport): Promise<string[]> {
  for (const folder of entry.wrote) await rm(join(output, folder), { recursive: true, force: true });
  const stem = await folderFor(entry);
  const nameAsset = createNamer();
  const wrote: string[] = [];
  const begin = async (folder: string) => {
    if (wrote.includes(folder)) return join(output, folder);
    if (await stat(join(output, folder)).catch(() => null))
      throw new KinkajouError(
        'out.occupied',
        'something else lies where this would be written',
        { file: join(output, folder) },
        'Move it away; this is tried again.',
      );
    wrote.push(folder);
    await mkdir(join(output, folder), { recursive: true });
    return join(output, folder);
  };
  try {
    const whole = noteOf({
      ...report,
      assets:
        report.assets.length === 0
          ? []
          : [{ ...report.assets[0], findings: NO_FINDINGS, asks: [], packages: [] }],
    });
    if (whole !== '') await writeFile(join(await begin(join(ASIDE, stem)), NOTE), `${whole}\n`);
    for (const asset of report.assets) {
      const notes = notesOf(asset);
      const made = asset.packages.filter(({ state }) => state === 'done');
      if (made.length === 0 && notes.length === 0) continue;
      const at = await begin(notes.length > 0 ? join(ASIDE, stem) : stem);
      const own = report.assets.length === 1 ? at : join(at, nameAsset(asset.name, 'asset'));
      for (const { id, destination } of made) await unpack(id, join(own, destination));
      if (notes.length > 0) {
        await mkdir(own, { recursive: true });
        await writeFile(
          join(own, NOTE),
          `${[...(own === at && whole !== '' ? [whole] : []), ...notes].join('\n')}\n`,
        );
      }
    }
    return wrote;
  } catch (error) {
    for (const folder of wrote) await rm(join(output, folder), { recursive: true, force: true });
    throw error;
  }
}

async function unpack(handoff: string, into: string): Promise<void> {
  const [row] = await db().select({ zip: handoffs.zip }).from(handoffs).where(eq(handoffs.id, handoff));
  if (row?.zip) await unpackPackage(row.zip, into);
}
