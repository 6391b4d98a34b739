import { fileURLToPath } from 'node:url';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import { db, pool } from './client.ts';

/** Brings the database to the newest schema. Run by the start command before server and workers. */
await migrate(db(), { migrationsFolder: fileURLToPath(new URL('../../drizzle', import.meta.url)) });
await pool().end();
