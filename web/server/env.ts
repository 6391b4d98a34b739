import { homedir } from 'node:os';
import { delimiter, join } from 'node:path';
import { pathToFileURL } from 'node:url';

/** The database that the start command or the operator names. */
export function databaseUrl(): string {
  const url = process.env.DATABASE_URL;
  if (!url)
    throw new Error('DATABASE_URL is not set; start with "npm run demo", or set it to a PostgreSQL database');
  return url;
}

/** Folder for blobs and derived pictures. */
export function dataFolder(): string {
  return process.env.KINKAJOU_DATA ?? join(process.cwd(), '.data');
}

/** Pictures that are made of contents as they are asked for; they can go at any time. */
export const derivedFolder = () => join(dataFolder(), 'derived');

/**
 * `s3://bucket/prefix` where contents lie in a bucket (KINKAJOU_BLOBS); null where they lie among the data.
 */
export function blobAddress(): string | null {
  return process.env.KINKAJOU_BLOBS || null;
}

/** How much of a bucket is kept on this machine: KINKAJOU_CACHE_GB, else 20. */
export function cacheBytes(): number {
  return positive('KINKAJOU_CACHE_GB', 20) * 1024 ** 3;
}

/**
 * Where the guard's threads begin. The server runs in the folder `web`; bundles have no place of their own to
 * start from.
 */
export function guardThread(): URL {
  return pathToFileURL(join(process.cwd(), '..', 'core/src/guard/thread.mjs'));
}

/**
 * Folders on this machine below which search folders and watched folders may lie: KINKAJOU_FOLDERS, else the
 * home folder.
 */
export function allowedFolders(): string[] {
  const named = (process.env.KINKAJOU_FOLDERS ?? '').split(delimiter).filter(Boolean);
  return named.length > 0 ? named : [homedir()];
}

/** How long a worker's job is its own without a sign of life: KINKAJOU_LEASE_SECONDS, else 30. */
export function leaseSeconds(): number {
  return positive('KINKAJOU_LEASE_SECONDS', 30);
}

/**
 * A worker whose jobs kept it from everything else for so long is ended: KINKAJOU_STUCK_SECONDS, else 900.
 */
export function stuckSeconds(): number {
  return positive('KINKAJOU_STUCK_SECONDS', 900);
}

function positive(name: string, otherwise: number): number {
  const text = process.env[name];
  if (text === undefined || text === '') return otherwise;
  const value = Number(text);
  if (!(value > 0)) throw new Error(`${name} must be a number above 0; it is "${text}"`);
  return value;
}
