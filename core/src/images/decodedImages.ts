import { LRUCache } from 'lru-cache';
import { sha256 } from '../parcel/hash.ts';
import { decodeImage } from './decode.ts';
import type { PixelBuffer } from './pixelBuffer.ts';

/** Bytes of pixels that are kept unless told. */
const BUDGET = 256 * 2 ** 20;

interface Wanted {
  bytes: Uint8Array;
  path: string;
}

/**
 * Pixels of images that were decoded, by content: an image that several materials share, or that is looked at
 * in several steps of one piece of work, is decoded once while there is room. The pixels are shared; nobody
 * may change them.
 */
export class DecodedImages {
  private readonly cache: LRUCache<string, PixelBuffer, Wanted>;

  /** `budget` in bytes of pixels. An image larger than that is decoded whenever it is asked for. */
  constructor(budget = BUDGET) {
    this.cache = new LRUCache({
      maxSize: budget,
      sizeCalculation: ({ data }) => Math.max(1, data.byteLength),
      fetchMethod: (_key, _stale, { context: { bytes, path } }) => decodeImage(bytes, path),
    });
  }

  /** As `decodeImage` without options, with its errors; those are not kept. */
  decode(bytes: Uint8Array, path: string): Promise<PixelBuffer> {
    return this.cache.forceFetch(sha256(bytes), { context: { bytes, path } });
  }
}
