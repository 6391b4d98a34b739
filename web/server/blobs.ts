import { createReadStream, type ReadStream } from 'node:fs';
import { join } from 'node:path';
import type { BlobStore } from './blobStores/blobStore.ts';
import { bucketPlace, bucketStore } from './blobStores/bucketStore.ts';
import { folderStore } from './blobStores/folderStore.ts';
import { blobAddress, cacheBytes, dataFolder } from './env.ts';

/** The store that the environment names: a bucket of an S3 server, or a folder among the data. */
function namedStore(): BlobStore {
  const address = blobAddress();
  if (address === null) return folderStore(join(dataFolder(), 'blobs'));
  return bucketStore(bucketPlace(address, process.env.KINKAJOU_S3_ENDPOINT || undefined), {
    folder: join(dataFolder(), 'bucket'),
    maxBytes: cacheBytes(),
  });
}

/** The store of contents that the settings name. */
export const blobs = namedStore();

/** Opens a content to be read piece by piece; throws `blob.missing`. */
export async function streamBlob(hash: string): Promise<ReadStream> {
  return createReadStream(await blobs.fileOf(hash));
}
