import { mkdir, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { FileSource } from '@kinkajou/core/parcel/fileSource';
import { zipSource } from '@kinkajou/core/parcel/zipSource';
import { blobs } from '../blobs.ts';

/** Opens a package by the hash of its zip, and closes it afterwards. */
export async function withPackage<T>(zip: string, use: (source: FileSource) => Promise<T>): Promise<T> {
  const source = await zipSource(await blobs.fileOf(zip));
  try {
    return await use(source);
  } finally {
    await source.close?.();
  }
}

/** Reads one file of a package. */
export function readOfPackage(zip: string, path: string): Promise<Uint8Array> {
  return withPackage(zip, (source) => source.read(path));
}

/** Writes the files of a package below a folder. */
export async function unpackPackage(zip: string, into: string): Promise<void> {
  await withPackage(zip, async (source) => {
    for (const { path } of source.files) {
      await mkdir(dirname(join(into, path)), { recursive: true });
      await writeFile(join(into, path), await source.read(path));
    }
  });
}
