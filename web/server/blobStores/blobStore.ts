import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import { KinkajouError } from '@kinkajou/core/errors';

/** A content as it lies in the store. */
export interface StoredBlob {
  /** Its SHA-256, or null for what was being written when its writer ended. */
  hash: string | null;
  size: number;
  /** When it came, in milliseconds. */
  modified: number;
  remove(): Promise<void>;
}

/** Bytes under their SHA-256. */
export interface BlobStore {
  put(bytes: Uint8Array): Promise<string>;
  /** Streams in, hashing on the way; stops with `limit.fileBytes` past the limit. */
  putStream(
    stream: NodeJS.ReadableStream,
    name: string,
    maxBytes: number,
  ): Promise<{ sha256: string; size: number }>;
  get(hash: string): Promise<Uint8Array>;
  /**
   * A file on this machine that holds it, for readers that seek; brought here first where the store is
   * elsewhere.
   */
  fileOf(hash: string): Promise<string>;
  has(hash: string): Promise<boolean>;
  /** Whether what is stored under that name is that content, read anew; false where there is none. */
  isWhole(hash: string): Promise<boolean>;
  list(): AsyncIterable<StoredBlob>;
  /** Writes and removes a probe; throws when the store cannot be used. */
  check(): Promise<void>;
}

const HEALS = 'Drop the same file again, and it is whole; "kinkajou doctor" lists all that is amiss.';

/** The error for a content that should be in the store and is not. */
export const missingBlob = (hash: string) =>
  new KinkajouError(
    'blob.missing',
    `the content ${hash.slice(0, 12)} is not in the store any more`,
    {},
    HEALS,
  );
/** The error for a content that does not have the hash it is kept under. */
export const changedBlob = (hash: string) =>
  new KinkajouError('blob.changed', `the content ${hash.slice(0, 12)} was changed in the store`, {}, HEALS);
/** Whether a name is a SHA-256 in small hexadecimal letters. */
export const isHash = (name: string) => /^[0-9a-f]{64}$/.test(name);

/** SHA-256 of a file, read in pieces. */
export async function hashOfFile(path: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path), hash);
  return hash.digest('hex');
}
