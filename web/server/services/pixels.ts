import { unitOf } from '@kinkajou/core/images/pixelBuffer';
import { blobs } from '../blobs.ts';
import { decodeKept } from './decodeKept.ts';

/** A pixel of a stored image, from the top left. */
export interface PixelPlace {
  sha256: string;
  /** For messages. */
  path: string;
  x: number;
  y: number;
}

/** Components of each pixel in 0..1, or floats as stored; null where there is no such image or pixel. */
export async function readPixels(places: readonly PixelPlace[]): Promise<(number[] | null)[]> {
  const out: (number[] | null)[] = [];
  for (const { sha256, path, x, y } of places) {
    if (!(await blobs.has(sha256))) {
      out.push(null);
      continue;
    }
    const { width, height, components, data } = await decodeKept(sha256, path, 0);
    const unit = unitOf(data);
    const index = (y * width + x) * components;
    out.push(
      x < width && y < height ? Array.from({ length: components }, (_, k) => data[index + k] / unit) : null,
    );
  }
  return out;
}
