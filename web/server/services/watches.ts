import { basename } from 'node:path';
import { toKinkajouError } from '@kinkajou/core/errors';
import { isImagePath } from '@kinkajou/core/images/format';
import { extensionOf } from '@kinkajou/core/parcel/fileSource';
import { folderSource } from '@kinkajou/core/parcel/folderSource';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { isModelPath } from '@kinkajou/core/readModel';
import { type FSWatcher, watch } from 'chokidar';
import { eq, isNull } from 'drizzle-orm';
import type pg from 'pg';
import { blobs } from '../blobs.ts';
import { db, pool } from '../db/client.ts';
import { assets, watchedFolders } from '../db/schema.ts';
import { log } from '../log.ts';
import { ArrivalKeeper } from './arrivalKeeper.ts';
import { findAsset } from './assetRow.ts';
import { type DeliveredFile, deliverFiles } from './deliveries.ts';
import { touchAsset } from './revisions.ts';
import { allowedFolder, refreshRoots } from './searchRoots.ts';

/** Files that belong to a model besides images. */
const COMPANIONS = new Set(['mtl', 'bin']);
/** A writer is given this long to finish a file, and files written together come in together. */
const SETTLE_MS = 300;
const TOGETHER_MS = 250;
const ROUND_MS = 1000;
/** How often folders of arrivals are looked at; what is the same twice is written to its end. */
const ARRIVAL_MS = 2000;
/** How often search folders are listed again; files that are as they were are not read again. */
const REFRESH_MS = 300_000;
/** One worker of all watches; the others wait for this lock. */
const LOCK = 0x6b696e6b;

/** Watches a folder for newer files of an asset; throws where the settings do not allow the folder. */
export async function watchFolder(assetId: string, path: string): Promise<void> {
  await findAsset(assetId);
  const row = { path: await allowedFolder(path), message: '', seenAt: null };
  await db()
    .insert(watchedFolders)
    .values({ assetId, ...row })
    .onConflictDoUpdate({ target: watchedFolders.assetId, set: row });
  await touchAsset(assetId, `Watching ${row.path}`);
}

/** Ends the watching of an asset's folder. */
export async function unwatchFolder(assetId: string): Promise<void> {
  await db().delete(watchedFolders).where(eq(watchedFolders.assetId, assetId));
  await touchAsset(assetId, 'Watching no folder');
}

/**
 * Keeps watch over the folders in the database and over folders of arrivals, and the index of search folders
 * fresh, until stopped.
 */
export function startWatching(): { stop(): Promise<void> } {
  const keeper = new Keeper();
  return { stop: () => keeper.stop() };
}

interface Watch {
  path: string;
  watcher: FSWatcher;
}

class Keeper {
  private readonly watches = new Map<string, Watch>();
  private readonly pending = new Map<string, NodeJS.Timeout>();
  private readonly delivering = new Map<string, Promise<void>>();
  private lock: pg.PoolClient | null = null;
  private stopped = false;
  private readonly round = setInterval(
    () => void this.look().catch((error) => log.warn({ err: error }, 'watching')),
    ROUND_MS,
  );
  private looking = false;
  private refreshed = Date.now();
  private readonly arrivals = new ArrivalKeeper();
  private arrived = 0;

  async stop(): Promise<void> {
    this.stopped = true;
    clearInterval(this.round);
    for (const timer of this.pending.values()) clearTimeout(timer);
    for (const { watcher } of this.watches.values()) await watcher.close();
    this.lock?.release();
  }

  private async look(): Promise<void> {
    if (this.looking || this.stopped || !(await this.isKeeper())) return;
    this.looking = true;
    try {
      const watched = { assetId: watchedFolders.assetId, path: watchedFolders.path };
      const rows = await db()
        .select(watched)
        .from(watchedFolders)
        .innerJoin(assets, eq(assets.id, watchedFolders.assetId))
        .where(isNull(assets.removedAt));
      const required = new Map(rows.map((row) => [row.assetId, row.path]));
      for (const [assetId, { path, watcher }] of this.watches) {
        if (required.get(assetId) === path) continue;
        await watcher.close();
        this.watches.delete(assetId);
      }
      for (const [assetId, path] of required) if (!this.watches.has(assetId)) this.begin(assetId, path);
      if (Date.now() - this.arrived >= ARRIVAL_MS) {
        this.arrived = Date.now();
        await this.arrivals.look();
      }
      if (Date.now() - this.refreshed >= REFRESH_MS) {
        this.refreshed = Date.now();
        await refreshRoots();
      }
    } finally {
      this.looking = false;
    }
  }

  private async isKeeper(): Promise<boolean> {
    if (this.lock) return true;
    const client = await pool().connect();
    const { rows } = await client.query('select pg_try_advisory_lock($1) as got', [LOCK]);
    if (!rows[0].got) {
      client.release();
      return false;
    }
    client.on('error', () => {
      this.lock = null;
    });
    this.lock = client;
    return true;
  }

  private begin(assetId: string, path: string): void {
    const watcher = watch(path, {
      ignoreInitial: true,
      awaitWriteFinish: { stabilityThreshold: SETTLE_MS, pollInterval: 60 },
    });
    const changed = (file: string) => {
      if (!isRequired(file)) return;
      clearTimeout(this.pending.get(assetId));
      this.pending.set(
        assetId,
        setTimeout(() => this.queue(assetId, path), TOGETHER_MS),
      );
    };
    watcher.on('add', changed).on('change', changed);
    watcher.on('error', (error) => log.warn({ err: error, path }, 'watched folder'));
    // What was there before the watch began comes in too.
    watcher.on('ready', () => this.queue(assetId, path));
    this.watches.set(assetId, { path, watcher });
  }

  /** One delivery of an asset after the other. */
  private queue(assetId: string, path: string): void {
    const before = this.delivering.get(assetId) ?? Promise.resolve();
    this.delivering.set(
      assetId,
      before.then(() => this.deliver(assetId, path)),
    );
  }

  private async deliver(assetId: string, path: string): Promise<void> {
    if (this.stopped) return;
    let message = '';
    try {
      const files = await readFolder(path);
      if (files.length > 0) await deliverFiles(assetId, basename(path), files);
    } catch (error) {
      const typed = toKinkajouError(error, 'folder.unreadable', { file: path });
      // A model that is read while it is being written is read again with the next change.
      message = typed.code === 'notFound' ? '' : typed.toText();
      log.warn({ err: error, path }, 'watched folder');
    }
    try {
      await db()
        .update(watchedFolders)
        .set({ message, seenAt: new Date() })
        .where(eq(watchedFolders.assetId, assetId));
      await touchAsset(assetId, 'The watched folder was read');
    } catch (error) {
      log.warn({ err: error }, 'watched folder');
    }
  }
}

function isRequired(path: string): boolean {
  return isImagePath(path) || isModelPath(path) || COMPANIONS.has(extensionOf(path.replaceAll('\\', '/')));
}

async function readFolder(path: string): Promise<DeliveredFile[]> {
  const source = await folderSource(path, { limits: limitsFromEnvironment() });
  const files: DeliveredFile[] = [];
  for (const file of source.files) {
    if (!isRequired(file.path)) continue;
    const sha256 = await blobs.put(await source.read(file.path));
    files.push({ path: file.path, sha256, size: file.size, modified: file.modified });
  }
  return files;
}
