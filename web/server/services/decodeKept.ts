import { decodeImage } from '@kinkajou/core/images/decode';
import type { PixelBuffer } from '@kinkajou/core/images/pixelBuffer';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { blobs } from '../blobs.ts';

/** Pixels decoded lately, so that a slider or pointer that moves does not decode again; full-size ones are large, so few are kept. */
const decoded = new Map<string, Promise<PixelBuffer>>();
const KEPT_MOST = 8;

/** The pixels of a stored image, at most `maxSize` on the longer side; 0 for all of them. */
export function decodeKept(sha256: string, path: string, maxSize: number): Promise<PixelBuffer> {
  const key = `${sha256} ${maxSize}`;
  const known = decoded.get(key);
  if (known) {
    decoded.delete(key);
    decoded.set(key, known);
    return known;
  }
  if (decoded.size >= KEPT_MOST) decoded.delete([...decoded.keys()][0]);
  const work = blobs.get(sha256).then((bytes) => decodeImage(bytes, path, { maxSize, limits: limitsFromEnvironment() }));
  work.catch(() => decoded.delete(key));
  decoded.set(key, work);
  return work;
}
