import { ZipFile } from 'yazl';
import type { PackageFiles } from './writeGltf.ts';

/** A fixed time for every entry, so that equal files give equal archives. */
const ENTRY_TIME = new Date(Date.UTC(2000, 0, 1));
/** Types that are compressed already are stored as they are. */
const PACKED = /\.(png|jpe?g|webp|exr)$/i;

/** Packs files into a zip archive, sorted by path; the same files always give the same bytes. */
export async function packageZip(files: PackageFiles): Promise<Uint8Array> {
  const zip = new ZipFile();
  for (const path of [...files.keys()].sort()) {
    zip.addBuffer(Buffer.from(files.get(path) as Uint8Array), path, {
      mtime: ENTRY_TIME,
      mode: 0o100644,
      compress: !PACKED.test(path),
      forceDosTimestamp: true,
    });
  }
  zip.end();
  const chunks: Buffer[] = [];
  for await (const chunk of zip.outputStream) chunks.push(chunk as Buffer);
  return new Uint8Array(Buffer.concat(chunks));
}
