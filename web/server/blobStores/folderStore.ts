import { access, mkdir, readFile, rename, rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { sha256 } from '@kinkajou/core/parcel/hash';
import { type BlobStore, changedBlob, hashOfFile, isHash, missingBlob } from './blobStore.ts';
import { filesIn } from './filesIn.ts';
import { type Arrived, Incoming } from './incoming.ts';

/** A folder as blob store: `ab/cd/abcd...`. Files appear whole, by renaming. */
export function folderStore(root: string): BlobStore {
  const incoming = new Incoming(join(root, 'incoming'));
  const pathOf = (hash: string) => join(root, hash.slice(0, 2), hash.slice(2, 4), hash);
  const has = (hash: string) =>
    access(pathOf(hash)).then(
      () => true,
      () => false,
    );
  const isWhole = async (hash: string) => (await has(hash)) && (await hashOfFile(pathOf(hash))) === hash;
  const settle = async ({ path, sha256: hash, size }: Arrived) => {
    // One that was changed on the disk is whole again when the same arrives anew.
    if (await isWhole(hash)) await rm(path, { force: true });
    else {
      await mkdir(dirname(pathOf(hash)), { recursive: true });
      await rename(path, pathOf(hash));
    }
    return { sha256: hash, size };
  };
  return {
    has,
    isWhole,
    async get(hash) {
      const bytes = await readFile(pathOf(hash)).catch((error: NodeJS.ErrnoException) => {
        throw error.code === 'ENOENT' ? missingBlob(hash) : error;
      });
      if (sha256(bytes) !== hash) throw changedBlob(hash);
      return bytes;
    },
    async fileOf(hash) {
      if (!(await has(hash))) throw missingBlob(hash);
      return pathOf(hash);
    },
    async put(bytes) {
      const hash = sha256(bytes);
      if (!(await isWhole(hash))) await settle(await incoming.ofBytes(bytes));
      return hash;
    },
    putStream: async (stream, name, maxBytes) => settle(await incoming.ofStream(stream, name, maxBytes)),
    async *list() {
      for await (const { path, name, size, modified } of filesIn(root))
        yield { hash: isHash(name) ? name : null, size, modified, remove: () => rm(path, { force: true }) };
    },
    check: () => incoming.check(),
  };
}
