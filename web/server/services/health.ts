import { desc, sql } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { workers } from '../db/schema.ts';

const WORKER_ALIVE_MS = 15_000;

export interface Health {
  ok: boolean;
  database: string;
  worker: string;
  blobs: string;
}

/** Asks each part whether it works; the answer is `ok` or the reason why not. */
export async function checkHealth(): Promise<Health> {
  const [database, worker, store] = await Promise.all([
    answer(async () => {
      await db().execute(sql`select 1`);
    }),
    answer(async () => {
      const [last] = await db().select().from(workers).orderBy(desc(workers.seenAt)).limit(1);
      if (!last) throw new Error('no worker has started');
      const age = Date.now() - last.seenAt.getTime();
      if (age > WORKER_ALIVE_MS) throw new Error(`no worker has been seen for ${Math.round(age / 1000)} s`);
    }),
    answer(() => blobs.check()),
  ]);
  return { ok: [database, worker, store].every((part) => part === 'ok'), database, worker, blobs: store };
}

async function answer(check: () => Promise<void>): Promise<string> {
  try {
    await check();
    return 'ok';
  } catch (error) {
    return error instanceof Error ? error.message : String(error);
  }
}
