import { toKinkajouError } from '../errors.ts';
import { isImagePath } from '../images/format.ts';
import { probeImage } from '../images/probe.ts';
import type { FileSource, SourceFile } from '../parcel/fileSource.ts';
import { sha256 } from '../parcel/hash.ts';
import { DEFAULT_LIMITS, type Limits } from '../parcel/limits.ts';
import type { ParcelImage } from './asset.ts';

/** Reads the header of one image. A fault is recorded with the image rather than thrown. */
export async function scanImage(
  path: string,
  bytes: Uint8Array,
  modified: Date | null,
  limits: Limits = DEFAULT_LIMITS,
): Promise<ParcelImage> {
  const base = { path, size: bytes.length, sha256: sha256(bytes), modified: modified?.toISOString() ?? null };
  try {
    return { ...base, info: await probeImage(bytes, path, limits), fault: null };
  } catch (error) {
    const { code, message } = toKinkajouError(error, 'image.broken', { file: path });
    return { ...base, info: null, fault: { code, message } };
  }
}

/** A file that cannot be read at all is named like one that is damaged, and the others go on. */
async function scanFile(
  { path, size, modified }: SourceFile,
  source: FileSource,
  limits: Limits,
): Promise<ParcelImage> {
  try {
    return await scanImage(path, await source.read(path), modified, limits);
  } catch (error) {
    const { code, message } = toKinkajouError(error, 'source.unreadable', { file: path });
    // Without content it is like no other.
    const sha256OfPath = sha256(new TextEncoder().encode(`${path} unread`));
    return {
      path,
      size,
      sha256: sha256OfPath,
      modified: modified?.toISOString() ?? null,
      info: null,
      fault: { code, message },
    };
  }
}

/** Every image of a source, in its order. `progress` is told how many are done. */
export async function scanImages(
  source: FileSource,
  limits: Limits = DEFAULT_LIMITS,
  progress?: (done: number, total: number) => void,
): Promise<ParcelImage[]> {
  const files = source.files.filter((file) => isImagePath(file.path));
  const images: ParcelImage[] = [];
  for (const file of files) {
    images.push(await scanFile(file, source, limits));
    progress?.(images.length, files.length);
  }
  return images;
}
