import { spawn } from 'node:child_process';
import { createWriteStream } from 'node:fs';
import { mkdir, mkdtemp, rename, rm, stat, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { KinkajouError } from '@kinkajou/core/errors';
import { sha256 } from '@kinkajou/core/parcel/hash';
import { DEFAULT_LIMITS } from '@kinkajou/core/parcel/limits';
import { zipSource } from '@kinkajou/core/parcel/zipSource';
import { blobs } from '../blobs.ts';
import { pool } from '../db/client.ts';
import { databaseUrl } from '../env.ts';
import { addBlob, createZip } from '../services/zipBlob.ts';
import { KEEPING } from './sweep.ts';
import { namedBlobs, requiredBlobs } from './used.ts';

const DUMP = 'database.dump';
const MANIFEST = 'manifest.json';
const KIND = 'kinkajou backup';
const VERSION = 1;

interface Manifest {
  kind: string;
  version: number;
  made: string;
  blobs: number;
  /** Contents that were missing or changed when it was made. */
  lacking: string[];
}

/** What a backup wrote. */
export interface BackedUp {
  file: string;
  blobs: number;
  bytes: number;
  lacking: string[];
}

/**
 * Writes database and contents into one file while the server runs: the database as it was at one moment, and
 * every content that it named then. Contents never change, and nothing is swept meanwhile. The file appears
 * whole.
 */
export async function backUp(file: string): Promise<BackedUp> {
  const target = resolve(file);
  if (await stat(target).catch(() => null))
    throw new KinkajouError(
      'out.occupied',
      'there is a file already',
      { file },
      'Name another one; a backup is never written over.',
    );
  const folder = await mkdtemp(join(tmpdir(), 'kinkajou-backup-'));
  const client = await pool().connect();
  const part = `${target}.part`;
  try {
    await client.query('select pg_advisory_lock($1)', [KEEPING]);
    await client.query('begin isolation level repeatable read read only');
    const { rows } = await client.query<{ id: string }>('select pg_export_snapshot() as id');
    await tool('pg_dump', [
      '--format=custom',
      '--no-owner',
      '--no-privileges',
      `--snapshot=${rows[0].id}`,
      '--file',
      join(folder, DUMP),
      `--dbname=${databaseUrl()}`,
    ]);
    const used = await requiredBlobs(client);
    const all = [...(await namedBlobs(client))].sort();
    await client.query('commit');
    const { zip, stream } = createZip();
    zip.addFile(join(folder, DUMP), DUMP, { compress: false });
    const lacking: string[] = [];
    let count = 0;
    for (const hash of all) {
      if (!(await blobs.isWhole(hash))) {
        // What is only remembered may be gone: it is made again.
        if (used.has(hash)) lacking.push(hash);
        continue;
      }
      addBlob(zip, hash, `blobs/${hash}`);
      count += 1;
    }
    const manifest: Manifest = {
      kind: KIND,
      version: VERSION,
      made: new Date().toISOString(),
      blobs: count,
      lacking,
    };
    await writeFile(join(folder, MANIFEST), JSON.stringify(manifest, null, 2));
    zip.addFile(join(folder, MANIFEST), MANIFEST);
    zip.end();
    await mkdir(dirname(target), { recursive: true });
    await pipeline(stream, createWriteStream(part));
    await rename(part, target);
    return { file, blobs: count, bytes: (await stat(target)).size, lacking };
  } finally {
    await client.query('rollback').catch(() => undefined);
    await client.query('select pg_advisory_unlock($1)', [KEEPING]).catch(() => undefined);
    client.release();
    await rm(part, { force: true });
    await rm(folder, { recursive: true, force: true });
  }
}

/**
 * Puts a backup into an empty database and its contents into the store. Throws `restore.occupied` where
 * anything is there already.
 */
export async function restore(file: string): Promise<Manifest> {
  const source = await zipSource(file, file, {
    ...DEFAULT_LIMITS,
    entries: Number.MAX_SAFE_INTEGER,
    totalBytes: Number.MAX_SAFE_INTEGER,
    fileBytes: Number.MAX_SAFE_INTEGER,
  });
  const folder = await mkdtemp(join(tmpdir(), 'kinkajou-restore-'));
  try {
    const manifest = await readManifest(source, file);
    await refuseOccupied();
    for (const { path } of source.files) {
      if (!path.startsWith('blobs/')) continue;
      const bytes = await source.read(path);
      const hash = path.slice('blobs/'.length);
      if (sha256(bytes) !== hash)
        throw new KinkajouError(
          'restore.broken',
          `${path} is not what its name says`,
          { file },
          'Use another backup; nothing was restored.',
        );
      await blobs.put(bytes);
    }
    await writeFile(join(folder, DUMP), await source.read(DUMP));
    await tool('pg_restore', [
      '--clean',
      '--if-exists',
      '--no-owner',
      '--no-privileges',
      '--exit-on-error',
      '--single-transaction',
      `--dbname=${databaseUrl()}`,
      join(folder, DUMP),
    ]);
    return manifest;
  } finally {
    await source.close();
    await rm(folder, { recursive: true, force: true });
  }
}

async function readManifest(source: Awaited<ReturnType<typeof zipSource>>, file: string): Promise<Manifest> {
  const broken = new KinkajouError(
    'restore.broken',
    'this is no backup of Kinkajou',
    { file },
    'Name a file that "kinkajou backup" wrote.',
  );
  const paths = new Set(source.files.map(({ path }) => path));
  if (!paths.has(DUMP) || !paths.has(MANIFEST)) throw broken;
  let manifest: Manifest;
  try {
    manifest = JSON.parse(new TextDecoder().decode(await source.read(MANIFEST))) as Manifest;
  } catch {
    throw broken;
  }
  if (manifest.kind !== KIND) throw broken;
  if (manifest.version > VERSION)
    throw new KinkajouError(
      'restore.newer',
      'a newer Kinkajou made this backup',
      { file },
      'Restore it with that version.',
    );
  return manifest;
}

async function refuseOccupied(): Promise<void> {
  const { rows } = await pool().query<{ there: boolean }>(
    "select to_regclass('public.parcels') is not null as there",
  );
  if (!rows[0].there) return;
  const { rows: counted } = await pool().query<{ parcels: number }>(
    'select count(*)::int as parcels from parcels',
  );
  if (counted[0].parcels > 0)
    throw new KinkajouError(
      'restore.occupied',
      `the database holds ${counted[0].parcels} parcels`,
      {},
      'Restore into an empty database: nothing that exists is written over.',
    );
}

/** Runs one of PostgreSQL's own tools. Throws `database.tool` with what it said. */
function tool(name: string, args: string[]): Promise<void> {
  return new Promise((done, fail) => {
    const child = spawn(name, args, { stdio: ['ignore', 'ignore', 'pipe'] });
    let said = '';
    child.stderr.on('data', (piece) => {
      said += piece;
    });
    child.once('error', () =>
      fail(
        new KinkajouError(
          'database.tool',
          `${name} is not installed here`,
          {},
          'Install the PostgreSQL client of Debian.',
        ),
      ),
    );
    child.once('exit', (code) => {
      if (code === 0) done();
      else
        fail(
          new KinkajouError(
            'database.tool',
            `${name} failed: ${said.trim().split('\n').at(-1) ?? ''}`,
            {},
            'See that the database is reachable, and its version is not newer than the tool.',
          ),
        );
    });
  });
}
