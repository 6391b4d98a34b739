import { join } from 'node:path';

/** The database that the start command or the operator names. */
export function databaseUrl(): string {
  const url = process.env.DATABASE_URL;
  if (!url) throw new Error('DATABASE_URL is not set; start with "npm run demo", or set it to a PostgreSQL database');
  return url;
}

/** Folder for blobs and derived pictures. */
export function dataFolder(): string {
  return process.env.KINKAJOU_DATA ?? join(process.cwd(), '.data');
}
