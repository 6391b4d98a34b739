import { availableParallelism } from 'node:os';
import { Piscina } from 'piscina';
import { KinkajouError } from '../../errors.ts';
import { revived } from '../../guard/fault.ts';
import type { DecodedImages } from '../../images/decodedImages.ts';
import type { ReadFile } from '../../parcel/fileSource.ts';
import { sha256 } from '../../parcel/hash.ts';
import { limitsFromEnvironment } from '../../parcel/limits.ts';
import type { PlannedImage } from '../plan/planImage.ts';
import { bakeImage, isLookedUp } from './bake.ts';
import type { BakeResult } from './bakeWorker.ts';

/** Keeps baked images by what they are made of. */
export interface BakeCache {
  get(key: string): Promise<Uint8Array | null>;
  put(key: string, bytes: Uint8Array): Promise<void>;
}

/** How images are made, and who hears of it. */
export interface BakeOptions {
  cache?: BakeCache;
  /** Told when an image is begun, and how many are done. */
  progress?: (done: number, total: number, file: string) => void;
  signal?: AbortSignal;
  /** Images at a time; as many as there are processors unless told. 1 bakes in this thread. */
  threads?: number;
  /** Where images lie that were decoded before, for those that are baked in this thread. */
  decoded?: DecodedImages;
}

/** Raise it when baking changes what comes out. */
const BAKE_VERSION = 2;
/** Below so many pixels in all, starting threads costs more than it saves. */
const WORTH_THREADS = 6_000_000;

/**
 * Bakes all images of a plan, several at a time, each once however many materials share it; those that are
 * more than looking numbers up in threads of their own. What a cache knows is not made again. Throws `handoff.cancelled` when the signal says so, and the
 * errors of decoding.
 */
export async function bakeImages(
  images: readonly PlannedImage[],
  read: ReadFile,
  options: BakeOptions = {},
): Promise<Map<string, Uint8Array>> {
  const { cache, progress, signal, decoded } = options;
  const todo: { image: PlannedImage; key: string }[] = [];
  const baked = new Map<string, Uint8Array>();
  for (const image of images) {
    const key = bakeKey(image);
    const existing = image.copyOf ? await read(image.copyOf) : await cache?.get(key);
    if (existing) baked.set(image.file, existing);
    else todo.push({ image, key });
  }
  const pixels = todo.reduce(
    (sum, { image }) => sum + image.width * image.height * image.components.length,
    0,
  );
  const threads = Math.min(options.threads ?? availableParallelism(), todo.length);
  const several = threads > 1 && pixels >= WORTH_THREADS;
  let pool: Piscina | null = null;
  const bake = async (image: PlannedImage) => {
    if (!several) return bakeImage(image, read, decoded);
    const sources = await sourcesOf(image, read);
    if (await isLookedUp(image, sources))
      return bakeImage(image, async (path) => sources.get(path) as Uint8Array, decoded);
    pool ??= createPool(threads);
    return bakeElsewhere(pool, image, sources, signal);
  };
  const queue = [...todo];
  const work = async () => {
    for (let next = queue.shift(); next; next = queue.shift()) {
      const { image, key } = next;
      if (signal?.aborted) throw new KinkajouError('handoff.cancelled', 'the handoff was cancelled');
      progress?.(baked.size, images.length, image.file);
      const bytes = await bake(image);
      await cache?.put(key, bytes);
      baked.set(image.file, bytes);
    }
  };
  try {
    await Promise.all(Array.from({ length: several ? threads : 1 }, work));
  } finally {
    await (pool as Piscina | null)?.destroy();
  }
  // In the plan's order, so that packages are the same whichever was done first.
  return new Map(images.map(({ file }) => [file, baked.get(file) as Uint8Array]));
}

/** What an image is made of, as a name: equal keys give equal bytes. */
export function bakeKey({ components, width, height, map, use, copyOf }: PlannedImage): string {
  const { space, type, depth } = map;
  const made = components.map((source) => (source.from === 'image' ? { ...source, path: '' } : source));
  return sha256(
    new TextEncoder().encode(
      JSON.stringify([
        BAKE_VERSION,
        made,
        width,
        height,
        space,
        type,
        depth,
        use.wrap,
        use.filter,
        copyOf !== null,
      ]),
    ),
  );
}

function createPool(threads: number): Piscina {
  return new Piscina({
    filename: new URL('./bakeThread.mjs', import.meta.url).href,
    maxThreads: threads,
    minThreads: threads,
    execArgv: ['--no-deprecation'],
  });
}

async function sourcesOf({ components }: PlannedImage, read: ReadFile): Promise<Map<string, Uint8Array>> {
  const sources = new Map<string, Uint8Array>();
  for (const source of components)
    if (source.from === 'image' && !sources.has(source.path))
      sources.set(source.path, await read(source.path));
  return sources;
}

/**
 * How many seconds an image may take: a source's own limit once for each and once more, and one a million
 * numbers.
 */
export function bakingSeconds(
  { width, height, components }: Pick<PlannedImage, 'width' | 'height' | 'components'>,
  sources: number,
  limit: number,
): number {
  return Math.ceil(limit + (width * height * components.length) / 1e6 + sources * limit);
}

async function bakeElsewhere(
  pool: Piscina,
  image: PlannedImage,
  sources: Map<string, Uint8Array>,
  signal?: AbortSignal,
): Promise<Uint8Array> {
  // A source that is never decoded to its end ends its thread, not the handoff of everything else.
  const seconds = bakingSeconds(image, sources.size, limitsFromEnvironment().seconds);
  const deadline = AbortSignal.timeout(seconds * 1000);
  let result: BakeResult;
  try {
    result = (await pool.run(
      { image, sources },
      { signal: signal ? AbortSignal.any([signal, deadline]) : deadline },
    )) as BakeResult;
  } catch (error) {
    if (signal?.aborted) throw new KinkajouError('handoff.cancelled', 'the handoff was cancelled');
    if (deadline.aborted)
      throw new KinkajouError('limit.seconds', `it was not made after ${seconds} seconds`, {
        file: [...sources.keys()].join(', '),
      });
    throw error;
  }
  if ('bytes' in result) return result.bytes;
  throw revived(result.fault);
}
