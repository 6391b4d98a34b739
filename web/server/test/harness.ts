import { Readable } from 'node:stream';
import { asc, eq } from 'drizzle-orm';
import { afterAll, beforeAll } from 'vitest';
import { db, pool } from '../db/client.ts';
import { assets, jobs } from '../db/schema.ts';
import { HANDLERS } from '../jobs/handlers.ts';
import { queue } from '../jobs/queue.ts';
import { type JobHandlers, JobRunner } from '../jobs/runJob.ts';
import { addParcelFile, closeParcel, createParcel } from '../services/parcels.ts';

/**
 * Begins with empty tables and an empty queue, and lets go of both when a file's tests are done. Files run
 * one after the other.
 */
export function closeAfterwards(): void {
  beforeAll(async () => {
    const { rows } = await pool().query<{ tablename: string }>(
      "select tablename from pg_tables where schemaname = 'public'",
    );
    await pool().query(`truncate ${rows.map(({ tablename }) => `"${tablename}"`).join(', ')} cascade`);
    // A worker would take what other files sent one after the other, and each leads nowhere.
    await (await queue()).clearStorage();
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
export async function send(
  name: string,
  files: Record<string, Uint8Array | string>,
): Promise<{ parcel: string; assets: Record<string, string> }> {
  const parcel = await createParcel(name);
  for (const [path, content] of Object.entries(files)) {
    await addParcelFile(
      parcel,
      path,
      null,
      Readable.from([Buffer.from(typeof content === 'string' ? new TextEncoder().encode(content) : content)]),
    );
  }
  await closeParcel(parcel);
  await work();
  const rows = await db().select().from(assets).where(eq(assets.parcelId, parcel));
  return { parcel, assets: Object.fromEntries(rows.map((row) => [row.name, row.id])) };
}

/** Does every job that waits, in order, those included that come up meanwhile: what workers do. */
export async function work(handlers: JobHandlers = HANDLERS): Promise<void> {
  const runner = new JobRunner(handlers);
  for (;;) {
    const [next] = await db()
      .select({ id: jobs.id })
      .from(jobs)
      .where(eq(jobs.state, 'queued'))
      .orderBy(asc(jobs.createdAt))
      .limit(1);
    if (!next) return;
    await runner.run(next.id);
  }
}

/** A request of one of our own pages. */
export function request(
  path: string,
  { method = 'GET', body, origin }: { method?: string; body?: unknown; origin?: string } = {},
): Request {
  return new Request(`http://localhost${path}`, {
    method,
    headers: { host: 'localhost', ...(origin ? { origin } : {}) },
    ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
  });
}

/** What a route gets besides the request. */
export const withId = (id: string) => ({ params: Promise.resolve({ id }) });
