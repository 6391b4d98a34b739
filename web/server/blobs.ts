import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { access, mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
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

/** A folder as blob store: `blobs/ab/cd/abcd...`. Files appear whole, by renaming. */
function folderBlobStore(root = join(dataFolder(), 'blobs')): BlobStore {
  const pathOf = (hash: string) => join(root, hash.slice(0, 2), hash.slice(2, 4), hash);
  const incoming = join(root, 'incoming');
  const has = (hash: string) =>
    access(pathOf(hash)).then(
      () => true,
      () => false,
    );
  const settle = async (temporary: string, hash: string) => {
    if (await has(hash)) return rm(temporary, { force: true });
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
    get: (hash) => readFile(pathOf(hash)),
    stream: (hash) => createReadStream(pathOf(hash)),
    async put(bytes) {
      const hash = sha256(bytes);
      if (await has(hash)) return hash;
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
