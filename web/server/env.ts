import { homedir } from 'node:os';
import { delimiter, join } from 'node:path';

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

/** Folders on this machine below which search folders and watched folders may lie: KINKAJOU_FOLDERS, else the home folder. */
export function allowedFolders(): string[] {
  const named = (process.env.KINKAJOU_FOLDERS ?? '').split(delimiter).filter(Boolean);
  return named.length > 0 ? named : [homedir()];
}
