import { toKinkajouError } from '../errors.ts';
import { decodeImage } from '../images/decode.ts';
import { lookAtPixels, type PixelFacts } from '../maps/pixelFacts.ts';
import type { ParcelImage } from './asset.ts';

/** What pixels say, by the content's SHA-256. Images that were not looked at are not in it. */
export type FactsByHash = ReadonlyMap<string, PixelFacts>;

export const NO_FACTS: FactsByHash = new Map();

/**
 * Looks at the pixels of each readable image, once per content. Images that turn out to be damaged are passed over:
 * their header was good, and what reads them reports the damage.
 */
export async function collectFacts(
  images: readonly ParcelImage[],
  read: (path: string) => Promise<Uint8Array>,
  progress?: (done: number, total: number) => void,
): Promise<Map<string, PixelFacts>> {
  const facts = new Map<string, PixelFacts>();
  const contents = [...new Map(images.filter((image) => image.info).map((image) => [image.sha256, image.path]))];
  for (const [i, [hash, path]] of contents.entries()) {
    try {
      facts.set(hash, lookAtPixels(await decodeImage(await read(path), path)));
    } catch (error) {
      toKinkajouError(error);
    }
    progress?.(i + 1, contents.length);
  }
  return facts;
}
