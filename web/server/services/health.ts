import { KinkajouError, systemFault } from '@kinkajou/core/errors';
import { desc, sql } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { workers } from '../db/schema.ts';
import { log } from '../log.ts';

/** A worker that told nothing of itself for so long is gone. */
export const WORKER_ALIVE_MS = 15_000;

/** Whether the server can work, part by part. */
export interface Health {
  ok: boolean;
  database: string;
  worker: string;
  blobs: string;
}

/** Asks each part whether it works; the answer is `ok` or the reason why not. */
export async function checkHealth(): Promise<Health> {
  const [database, worker, store] = await Promise.all([
    answer('the database does not answer', async () => {
      await db().execute(sql`select 1`);
    }),
    answer('nobody knows, since the database does not answer', async () => {
      const [last] = await db().select().from(workers).orderBy(desc(workers.seenAt)).limit(1);
      if (!last) throw new KinkajouError('worker.none', 'no worker has started');
      const age = Date.now() - last.seenAt.getTime();
      if (age > WORKER_ALIVE_MS)
        throw new KinkajouError('worker.gone', `no worker has been seen for ${Math.round(age / 1000)} s`);
    }),
    answer('the store cannot be written', () => blobs.check()),
  ]);
  return { ok: [database, worker, store].every((part) => part === 'ok'), database, worker, blobs: store };
}

/** `ok`, or why not in our words; what the database or the disk said is in the log. */
async function answer(otherwise: string, check: () => Promise<void>): Promise<string> {
  try {
    await check();
    return 'ok';
  } catch (error) {
    if (error instanceof KinkajouError) return error.message;
    log.warn({ err: error }, 'health');
    const disk = systemFault(error);
    return disk ? `${otherwise}: ${disk.message}` : otherwise;
  }
}
