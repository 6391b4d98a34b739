import { LRUCache } from 'lru-cache';
import { toKinkajouError } from '../errors.ts';
import { decodeImage } from '../images/decode.ts';
import { lookAtPixels, type PixelFacts } from '../maps/pixelFacts.ts';
import { DEFAULT_LIMITS, type Limits } from '../parcel/limits.ts';
import type { ParcelImage } from './asset.ts';

/** What pixels say, by the content's SHA-256. Images that were not looked at are not in it. */
export type FactsByHash = ReadonlyMap<string, PixelFacts>;

/** Facts of an asset whose pixels were not looked at. */
export const NO_FACTS: FactsByHash = new Map();

/** Why the pixels of a content cannot be had, though its header was good. */
export type DamageByHash = ReadonlyMap<string, NonNullable<ParcelImage['fault']>>;

/** What looking at images found, by path. */
export interface Looked {
  facts: Map<string, PixelFacts>;
  damaged: Map<string, NonNullable<ParcelImage['fault']>>;
}

/** Facts that are kept while there is room, by content. */
export interface FactsCache {
  get(hash: string): PixelFacts | undefined;
  set(hash: string, facts: PixelFacts): unknown;
}

/** Bytes of facts that are kept unless told: those of some four thousand images. */
const BUDGET = 48 * 2 ** 20;
/** What facts take beside their maps of the image. */
const NUMBERS = 2000;

/** For work on many assets that share images: each content is looked at once while there is room. */
export function createFactsCache(budget = BUDGET): FactsCache {
  return new LRUCache<string, PixelFacts>({
    maxSize: budget,
    sizeCalculation: ({ sketch, activity }) => sketch.length + activity.length + NUMBERS,
  });
}

/** Bounds on images, what was looked at before, and who hears of progress. */
export interface LookOptions {
  limits?: Limits;
  cache?: FactsCache;
  progress?: (done: number, total: number) => void;
}

/**
 * Looks at the pixels of each readable image, once per content. Those that turn out to be damaged are told
 * beside.
 */
export async function collectFacts(
  images: readonly ParcelImage[],
  read: (path: string) => Promise<Uint8Array>,
  { limits = DEFAULT_LIMITS, cache, progress }: LookOptions = {},
): Promise<Looked> {
  const looked: Looked = { facts: new Map(), damaged: new Map() };
  const contents = [
    ...new Map(images.filter((image) => image.info).map((image) => [image.sha256, image.path])),
  ];
  for (const [i, [hash, path]] of contents.entries()) {
    try {
      const facts = cache?.get(hash) ?? lookAtPixels(await decodeImage(await read(path), path, { limits }));
      cache?.set(hash, facts);
      looked.facts.set(hash, facts);
    } catch (error) {
      looked.damaged.set(hash, faultOf(error, path));
    }
    progress?.(i + 1, contents.length);
  }
  return looked;
}

/** A fault as it is kept with an image. */
export function faultOf(error: unknown, path: string): NonNullable<ParcelImage['fault']> {
  const { code, message } = toKinkajouError(error, 'image.broken', { file: path });
  return { code, message };
}

/** The images with what is damaged known to be so, as if their headers had told. */
export function withDamage(images: readonly ParcelImage[], damaged: DamageByHash): ParcelImage[] {
  return images.map((image) => {
    const fault = damaged.get(image.sha256);
    return fault ? { ...image, info: null, fault } : image;
  });
}
