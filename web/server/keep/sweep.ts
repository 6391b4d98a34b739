import { rm } from 'node:fs/promises';
import type { QueryResultRow } from 'pg';
import { filesIn } from '../blobStores/filesIn.ts';
import { blobs } from '../blobs.ts';
import { pool } from '../db/client.ts';
import { derivedFolder } from '../env.ts';
import { namedBlobs } from './used.ts';

/** What nobody needs any more, by kind. */
export interface Swept {
  /** Whether it was taken away, or only told. */
  done: boolean;
  blobs: { count: number; bytes: number };
  pictures: { count: number; bytes: number };
  uploads: { count: number; bytes: number };
  parcels: { id: string; name: string }[];
  /** Assets that were taken off the shelf, which could be brought back until now. */
  assets: { id: string; name: string }[];
}

/** Whether it is taken away, and how old it must be. */
export interface SweepOptions {
  /** Takes away what is found; else it is only told. */
  yes?: boolean;
  /** Younger things may belong to work that goes on. */
  hours?: number;
}

/** One sweep or backup at a time: a backup copies what it saw used. */
export const KEEPING = 4_702_001;

/**
 * Finds what nothing refers to: contents, pictures made of them, files that never finished arriving, parcels
 * whose upload was abandoned, and assets that were removed. Only what is older than so many hours, since what
 * arrives is not referred to at once.
 */
export async function sweep({ yes = false, hours = 24 }: SweepOptions = {}): Promise<Swept> {
  const swept: Swept = {
    done: yes,
    blobs: none(),
    pictures: none(),
    uploads: none(),
    parcels: [],
    assets: [],
  };
  const before = Date.now() - hours * 3600_000;
  const client = await pool().connect();
  try {
    await client.query('select pg_advisory_lock($1)', [KEEPING]);
    const abandoned = "state = 'uploading' and created_at < now() - make_interval(hours => $1)";
    const { rows } = await client.query<{ id: string; name: string }>(
      `select id, name from parcels where ${abandoned}`,
      [hours],
    );
    swept.parcels = rows;
    if (yes) await client.query(`delete from parcels where ${abandoned}`, [hours]);
    const removed = 'removed_at < now() - make_interval(hours => $1)';
    swept.assets = (
      await client.query<{ id: string; name: string }>(
        `select id, name from assets where ${removed} order by name`,
        [hours],
      )
    ).rows;
    if (yes) await forgetAssets(client, swept.assets);
    const used = await namedBlobs(client);
    const take = async (
      into: { count: number; bytes: number },
      size: number,
      remove: () => Promise<void>,
    ) => {
      into.count += 1;
      into.bytes += size;
      if (yes) await remove();
    };
    for await (const { hash, size, modified, remove } of blobs.list()) {
      if (modified > before) continue;
      if (hash === null) await take(swept.uploads, size, remove);
      else if (!used.has(hash)) await take(swept.blobs, size, remove);
    }
    for await (const { path, name, size, modified } of filesIn(derivedFolder()))
      if (modified <= before && !used.has(name.slice(0, 64)))
        await take(swept.pictures, size, () => rm(path, { force: true }));
    if (yes) await forget(client);
  } finally {
    await client.query('select pg_advisory_unlock($1)', [KEEPING]).catch(() => undefined);
    client.release();
  }
  return swept;
}

/**
 * Assets with all that hangs on them, and the parcels, those of earlier deliveries too, that no other asset
 * came in.
 */
async function forgetAssets(client: Client, gone: readonly { id: string }[]): Promise<void> {
  const ids = gone.map(({ id }) => id);
  const { rows } = await client.query<{ parcel: string }>(
    `select parcel_id as parcel from assets where id = any($1)
     union select previous_parcel_id from deliveries where asset_id = any($1)
     union select parcel_id from deliveries where asset_id = any($1)`,
    [ids],
  );
  await client.query('delete from assets where id = any($1)', [ids]);
  await client.query(
    `delete from parcels p where id = any($1)
     and not exists (select from assets a where a.parcel_id = p.id)
     and not exists (select from deliveries d where d.parcel_id = p.id or d.previous_parcel_id = p.id)`,
    [rows.map(({ parcel }) => parcel)],
  );
}

interface Client {
  query<T extends QueryResultRow>(text: string, values: unknown[]): Promise<{ rows: T[] }>;
}

/** What was baked and is gone must not be looked for. */
async function forget(client: Client): Promise<void> {
  const there: string[] = [];
  for await (const { hash } of blobs.list()) if (hash !== null) there.push(hash);
  await client.query('delete from baked_images where not (sha256 = any($1))', [there]);
}

function none() {
  return { count: 0, bytes: 0 };
}
