import { convertPixels } from '@kinkajou/core/colour/convert';
import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import { chromaticitiesOf } from '@kinkajou/core/colour/primaries';
import { decodeImage } from '@kinkajou/core/images/decode';
import { encodeImage } from '@kinkajou/core/images/encode';
import { fileName, folderOf, stemOf } from '@kinkajou/core/parcel/fileSource';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { desc, eq } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { type ConversionRequest, conversions } from '../db/schema.ts';
import { publish } from '../events.ts';
import { enqueue } from '../queue.ts';
import { assetImages, findAsset } from './assets.ts';
import { keepImage } from './keepImage.ts';

export type ConversionRow = typeof conversions.$inferSelect;

export async function requestConversion(assetId: string, request: ConversionRequest): Promise<ConversionRow> {
  const images = await assetImages(await findAsset(assetId));
  if (!images.some((image) => image.path === request.image && image.info))
    throw new KinkajouError('image.missing', 'there is no such readable image in the parcel', { file: request.image });
  const [row] = await db().insert(conversions).values({ assetId, request }).returning();
  await enqueue('convert-image', { conversionId: row.id });
  return row;
}

export function listConversions(assetId: string): Promise<ConversionRow[]> {
  return db().select().from(conversions).where(eq(conversions.assetId, assetId)).orderBy(desc(conversions.createdAt)).limit(50);
}

/** The job: a new image in the parcel, beside the original. Integers stay integers for encoded spaces; floats stay floats. */
export async function convertImage(id: string): Promise<void> {
  const [row] = await db().select().from(conversions).where(eq(conversions.id, id));
  if (row?.state !== 'queued') return;
  const update = async (values: Partial<typeof conversions.$inferInsert>) => {
    await db().update(conversions).set(values).where(eq(conversions.id, id));
    await publish({ topic: 'asset', id: row.assetId });
  };
  await update({ state: 'running' });
  try {
    const asset = await findAsset(row.assetId);
    const { image, from, to, exponent } = row.request;
    const file = (await assetImages(asset)).find((other) => other.path === image);
    if (!file?.info) throw new KinkajouError('image.missing', 'it is no longer in the parcel', { file: image });
    const pixels = await decodeImage(await blobs.get(file.sha256), image, { limits: limitsFromEnvironment() });
    const { buffer, report } = convertPixels(pixels, from, to, { exponent });
    const floating = buffer.data instanceof Float32Array;
    const bytes = await encodeImage(buffer, floating ? 'exr' : 'png', { depth: file.info.bitDepth === 32 ? 32 : 16, primaries: chromaticitiesOf(to) });
    const path = convertedPath(image, to, floating ? 'exr' : 'png');
    await keepImage(asset.parcelId, path, bytes);
    await enqueue('look-at-images', { parcelId: asset.parcelId });
    await update({ state: 'done', path, report });
  } catch (error) {
    await update({ state: 'failed', message: toKinkajouError(error).toText() });
  }
}

function convertedPath(image: string, to: string, extension: string): string {
  const folder = folderOf(image);
  return `${folder === '' ? '' : `${folder}/`}converted/${stemOf(fileName(image))}.${to}.${extension}`;
}
