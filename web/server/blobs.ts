import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { access, mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { KinkajouError } from '@kinkajou/core/errors';
import { sha256 } from '@kinkajou/core/parcel/hash';
import { pastLimit } from '@kinkajou/core/parcel/limits';
import { dataFolder } from './env.ts';

/** Bytes under their SHA-256. Another store (object storage) needs only these functions. */
export interface BlobStore {
  put(bytes: Uint8Array): Promise<string>;
  /** Streams in, hashing on the way; stops with `limit.fileBytes` past the limit. */
  putStream(stream: NodeJS.ReadableStream, name: string, maxBytes: number): Promise<{ sha256: string; size: number }>;
  get(hash: string): Promise<Uint8Array>;
  stream(hash: string): NodeJS.ReadableStream;
  /** A path on disk, for readers that seek. */
  pathOf(hash: string): string;
  has(hash: string): Promise<boolean>;
  /** Writes and removes a probe; throws when the store cannot be used. */
  check(): Promise<void>;
}

const HEALS = 'Drop the same file again, and it is whole; "kinkajou doctor" lists all that is amiss.';

/** SHA-256 of a file, read in pieces. */
export async function hashOfFile(path: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path), hash);
  return hash.digest('hex');
}

/** A folder as blob store: `blobs/ab/cd/abcd...`. Files appear whole, by renaming. */
function folderBlobStore(root = join(dataFolder(), 'blobs')): BlobStore {
  const pathOf = (hash: string) => join(root, hash.slice(0, 2), hash.slice(2, 4), hash);
  const incoming = join(root, 'incoming');
  const has = (hash: string) =>
    access(pathOf(hash)).then(
      () => true,
      () => false,
    );
  const isWhole = async (hash: string) => (await has(hash)) && (await hashOfFile(pathOf(hash))) === hash;
  const settle = async (temporary: string, hash: string) => {
    // One that was changed on the disk is whole again when the same arrives anew.
    if (await isWhole(hash)) return rm(temporary, { force: true });
    await mkdir(dirname(pathOf(hash)), { recursive: true });
    await rename(temporary, pathOf(hash));
  };
  const newTemporary = async () => {
    await mkdir(incoming, { recursive: true });
    return join(incoming, randomUUID());
  };
  return {
    pathOf,
    has,
    async get(hash) {
      const bytes = await readFile(pathOf(hash)).catch((error: NodeJS.ErrnoException) => {
        if (error.code === 'ENOENT') throw new KinkajouError('blob.missing', `the content ${hash.slice(0, 12)} is not in the store any more`, {}, HEALS);
        throw error;
      });
      if (sha256(bytes) !== hash) throw new KinkajouError('blob.changed', `the content ${hash.slice(0, 12)} was changed on the disk`, {}, HEALS);
      return bytes;
    },
    stream: (hash) => createReadStream(pathOf(hash)),
    async put(bytes) {
      const hash = sha256(bytes);
      if (await isWhole(hash)) return hash;
      const temporary = await newTemporary();
      await writeFile(temporary, bytes);
      await settle(temporary, hash);
      return hash;
    },
    async putStream(stream, name, maxBytes) {
      const temporary = await newTemporary();
      const hash = createHash('sha256');
      let size = 0;
      const meter = new Transform({
        transform(chunk: Buffer, _encoding, done) {
          size += chunk.length;
          if (size > maxBytes) return done(pastLimit('fileBytes', name, size, maxBytes));
          hash.update(chunk);
          done(null, chunk);
        },
      });
      try {
        await pipeline(stream, meter, createWriteStream(temporary));
      } catch (error) {
        await rm(temporary, { force: true });
        throw error;
      }
      const digest = hash.digest('hex');
      await settle(temporary, digest);
      return { sha256: digest, size };
    },
    async check() {
      const temporary = await newTemporary();
      await writeFile(temporary, 'probe');
      await rm(temporary);
    },
  };
}

export const blobs = folderBlobStore();
