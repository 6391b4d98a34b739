import { Readable } from 'node:stream';
import { ZipFile } from 'yazl';
import { streamBlob } from '../blobs.ts';

/** A zip whose stream ends with the error of what could not be put into it. */
export function createZip(): { zip: ZipFile; stream: Readable } {
  const zip = new ZipFile();
  const stream = zip.outputStream as Readable;
  zip.on('error', (error) => stream.destroy(error as Error));
  return { zip, stream };
}

/**
 * Adds a content, which is opened when its turn comes: where the store is elsewhere, this machine may not
 * hold all of them at once.
 */
export function addBlob(zip: ZipFile, hash: string, path: string): void {
  zip.addReadStreamLazy(path, { compress: false }, (take) =>
    streamBlob(hash).then(
      (content) => take(null, content),
      (error: Error) => take(error, Readable.from([])),
    ),
  );
}
