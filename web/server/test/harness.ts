import { Readable } from 'node:stream';
import { afterAll, beforeAll } from 'vitest';
import { eq } from 'drizzle-orm';
import { db, pool } from '../db/client.ts';
import { assets } from '../db/schema.ts';
import { queue } from '../queue.ts';
import { lookAtImages } from '../services/facts.ts';
import { addParcelFile, closeParcel, createParcel, readParcel } from '../services/parcels.ts';

/** Begins with empty tables, and lets go of database and queue when a file's tests are done. Files run one after the other. */
export function closeAfterwards(): void {
  beforeAll(async () => {
    const { rows } = await pool().query<{ tablename: string }>("select tablename from pg_tables where schemaname = 'public'");
    await pool().query(`truncate ${rows.map(({ tablename }) => `"${tablename}"`).join(', ')} cascade`);
  });
  afterAll(async () => {
    await (await queue()).stop({ graceful: false });
    await pool().end();
    const holder = globalThis as { kinkajouPool?: unknown; kinkajouQueue?: unknown };
    delete holder.kinkajouPool;
    delete holder.kinkajouQueue;
  });
}

/** Sends files as a person would, and does the worker's jobs at once. Ids of the assets by name. */
export async function send(name: string, files: Record<string, Uint8Array | string>): Promise<{ parcel: string; assets: Record<string, string> }> {
  const parcel = await createParcel(name);
  for (const [path, content] of Object.entries(files)) {
    await addParcelFile(parcel, path, null, Readable.from([Buffer.from(typeof content === 'string' ? new TextEncoder().encode(content) : content)]));
  }
  await closeParcel(parcel);
  await readParcel(parcel);
  await lookAtImages(parcel);
  const rows = await db().select().from(assets).where(eq(assets.parcelId, parcel));
  return { parcel, assets: Object.fromEntries(rows.map((row) => [row.name, row.id])) };
}

/** A request of one of our own pages. */
export function request(path: string, { method = 'GET', body, origin }: { method?: string; body?: unknown; origin?: string } = {}): Request {
  return new Request(`http://harbour.test${path}`, {
    method,
    headers: { host: 'harbour.test', ...(origin ? { origin } : {}) },
    ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
  });
}

/** What a route gets besides the request. */
export const withId = (id: string) => ({ params: Promise.resolve({ id }) });
