import { randomUUID } from 'node:crypto';
import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { toBytes } from '@kinkajou/core/colour/quantise';
import { KinkajouError } from '@kinkajou/core/errors';
import { decodeImage } from '@kinkajou/core/images/decode';
import { probeImage } from '@kinkajou/core/images/probe';
import { sha256 } from '@kinkajou/core/parcel/hash';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { eq } from 'drizzle-orm';
import sharp, { type Sharp } from 'sharp';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { parcelFiles } from '../db/schema.ts';
import { derivedFolder } from '../env.ts';
import { log } from '../log.ts';
import { notFound } from '../respond.ts';
import { rootFileWith } from './searchRoots.ts';

/** Sizes that may be asked for: board cells, details, viewport. */
export const PICTURE_SIZES = [96, 192, 384, 1024, 2048] as const;

/** An encoded picture with its media type. */
export interface Picture {
  bytes: Uint8Array;
  type: string;
}

const inFlight = new Map<string, Promise<Picture>>();

/** An image of a parcel as PNG or WebP no larger than `size` on its longer side; made once, then kept. */
export function pictureOf(hash: string, size: number): Promise<Picture> {
  const key = `${hash}-${size}`;
  let work = inFlight.get(key);
  if (!work) {
    work = makePicture(hash, size).finally(() => inFlight.delete(key));
    inFlight.set(key, work);
  }
  return work;
}

async function makePicture(hash: string, size: number): Promise<Picture> {
  const kept = join(derivedFolder(), hash.slice(0, 2), `${hash}-${size}`);
  const existing = await readFile(kept).catch(() => null);
  // Cells show a lossy picture; the viewport gets exact numbers.
  const exact = size >= 1024;
  const type = exact ? 'image/png' : 'image/webp';
  if (existing) return { bytes: existing, type };
  const bytes = await draw(hash, await contentOf(hash), size, exact);
  await mkdir(dirname(kept), { recursive: true });
  const temporary = `${kept}.${randomUUID()}`;
  await writeFile(temporary, bytes);
  await rename(temporary, kept);
  return { bytes, type };
}

/** From the blob store, or from a search folder where it lies unless it was changed since. */
async function contentOf(hash: string): Promise<Uint8Array> {
  if (await blobs.has(hash)) return blobs.get(hash);
  const file = await rootFileWith(hash);
  const bytes = file && (await readFile(file).catch(() => null));
  if (!bytes || sha256(bytes) !== hash) throw notFound('image');
  return bytes;
}

async function draw(hash: string, source: Uint8Array, size: number, exact: boolean): Promise<Uint8Array> {
  const [row] = await db()
    .select({ path: parcelFiles.path })
    .from(parcelFiles)
    .where(eq(parcelFiles.sha256, hash))
    .limit(1);
  const path = row?.path ?? 'image';
  const limits = limitsFromEnvironment();
  const { format, width, height } = await probeImage(source, path, limits);
  const seconds = Math.ceil(limits.seconds + (width * height) / 1e6);
  const image = ['png', 'jpeg', 'webp'].includes(format)
    ? sharp(source, { ignoreIcc: true, limitInputPixels: false }).timeout({ seconds })
    : await fromCore(source, path, size);
  const shrunk = image.resize(size, size, { fit: 'inside', withoutEnlargement: true });
  try {
    return await (exact ? shrunk.png({ compressionLevel: 3 }) : shrunk.webp({ quality: 82 })).toBuffer();
  } catch (error) {
    log.warn({ err: error, hash }, 'picture');
    throw new KinkajouError(
      'image.broken',
      'its pixels are damaged or cut off',
      { file: path },
      'Export or copy the image again.',
    );
  }
}

/**
 * Types that sharp does not read, and floats, by way of the core; floats are shown encoded and clipped at 1.
 */
async function fromCore(source: Uint8Array, path: string, size: number): Promise<Sharp> {
  const { width, height, components, data } = toBytes(
    await decodeImage(source, path, { maxSize: size, limits: limitsFromEnvironment() }),
  );
  return sharp(data, {
    raw: { width, height, channels: components as 1 | 2 | 3 | 4 },
    limitInputPixels: false,
  });
}
