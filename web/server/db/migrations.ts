import { fileURLToPath } from 'node:url';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import { db } from './client.ts';

/** Brings the database to the newest schema. */
export function runMigrations(): Promise<void> {
  return migrate(db(), { migrationsFolder: fileURLToPath(new URL('../../drizzle', import.meta.url)) });
}
