import { decodeImage } from '@kinkajou/core/images/decode';
import type { PixelBuffer } from '@kinkajou/core/images/pixelBuffer';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { LRUCache } from 'lru-cache';
import { blobs } from '../blobs.ts';

interface Wanted {
  sha256: string;
  path: string;
  maxSize: number;
}

/**
 * Pixels decoded lately, so that a slider or pointer that moves does not decode again. An image larger than
 * this is not kept.
 */
const decoded = new LRUCache<string, PixelBuffer, Wanted>({
  maxSize: 256e6,
  sizeCalculation: ({ data }) => Math.max(1, data.byteLength),
  fetchMethod: async (_key, _stale, { context: { sha256, path, maxSize } }) =>
    decodeImage(await blobs.get(sha256), path, { maxSize, limits: limitsFromEnvironment() }),
});

/**
 * The pixels of a stored image, at most `maxSize` on the longer side; 0 for all of them. Those who ask at
 * once share one decoding.
 */
export function decodeKept(sha256: string, path: string, maxSize: number): Promise<PixelBuffer> {
  return decoded.forceFetch(`${sha256} ${maxSize}`, { context: { sha256, path, maxSize } });
}
