import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres';
import pg from 'pg';
import { databaseUrl } from '../env.ts';
import * as schema from './schema.ts';

const holder = globalThis as unknown as { kinkajouPool?: pg.Pool };

/** One pool per process, kept over hot reloads. */
export function pool(): pg.Pool {
  if (!holder.kinkajouPool) {
    holder.kinkajouPool = new pg.Pool({ connectionString: databaseUrl(), max: 10 });
    // Without a listener an idle connection that the server drops would end the process.
    holder.kinkajouPool.on('error', () => undefined);
  }
  return holder.kinkajouPool;
}

/** The database, over one pool of connections a process. */
export function db(): NodePgDatabase<typeof schema> {
  return drizzle(pool(), { schema });
}

/** What the work of `db().transaction` is given. */
export type Transaction = Parameters<Parameters<ReturnType<typeof db>['transaction']>[0]>[0];
