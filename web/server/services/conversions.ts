import { convertPixels } from '@kinkajou/core/colour/convert';
import { chromaticitiesOf } from '@kinkajou/core/colour/primaries';
import { KinkajouError } from '@kinkajou/core/errors';
import { decodeImage } from '@kinkajou/core/images/decode';
import { encodeImage } from '@kinkajou/core/images/encode';
import { fileName, folderOf, stemOf } from '@kinkajou/core/parcel/fileSource';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { desc, eq, getTableColumns } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import type { ConversionRequest } from '../db/rowTypes.ts';
import { conversions, jobs } from '../db/schema.ts';
import { enqueue, JOB_FIELDS } from '../jobs/queue.ts';
import type { JobRun } from '../jobs/runJob.ts';
import { notFound } from '../respond.ts';
import { assetImages, findAsset } from './assetRow.ts';
import { keepImage } from './keepImage.ts';
import { touchParcel } from './revisions.ts';

/** A conversion with how far its job is. */
export type ConversionRow = Awaited<ReturnType<typeof listConversions>>[number];

/** Asks for a converted copy; returns the job's id. */
export async function requestConversion(assetId: string, request: ConversionRequest): Promise<string> {
  const images = await assetImages(await findAsset(assetId));
  if (!images.some((image) => image.path === request.image && image.info))
    throw new KinkajouError('image.missing', 'there is no such readable image in the parcel', {
      file: request.image,
    });
  return enqueue(
    'convert-image',
    { assetId },
    { with: (tx, id) => tx.insert(conversions).values({ id, assetId, request }) },
  );
}

/** Conversions of an asset's images with their jobs, the latest first. */
export function listConversions(assetId: string) {
  return db()
    .select({ ...getTableColumns(conversions), ...JOB_FIELDS })
    .from(conversions)
    .innerJoin(jobs, eq(jobs.id, conversions.id))
    .where(eq(conversions.assetId, assetId))
    .orderBy(desc(conversions.createdAt))
    .limit(50);
}

/**
 * The job: a new image in the parcel, beside the original. Integers stay integers for encoded spaces; floats
 * stay floats.
 */
export async function convertImage({
  id,
  data: { assetId },
  progress,
}: JobRun<'convert-image'>): Promise<void> {
  const [row] = await db().select().from(conversions).where(eq(conversions.id, id));
  if (!row) throw notFound('job');
  const asset = await findAsset(assetId);
  const { image, from, to, exponent } = row.request;
  const file = (await assetImages(asset)).find((other) => other.path === image);
  if (!file?.info) throw new KinkajouError('image.missing', 'it is no longer in the parcel', { file: image });
  progress(0, `decoding ${image}`);
  const pixels = await decodeImage(await blobs.get(file.sha256), image, { limits: limitsFromEnvironment() });
  progress(0.4, `converting ${image}`);
  const { buffer, report } = convertPixels(pixels, from, to, { exponent });
  const floating = buffer.data instanceof Float32Array;
  const bytes = await encodeImage(buffer, floating ? 'exr' : 'png', {
    depth: file.info.bitDepth === 32 ? 32 : 16,
    primaries: chromaticitiesOf(to),
  });
  const path = convertedPath(image, to, floating ? 'exr' : 'png');
  await keepImage(asset.parcelId, path, bytes);
  await enqueue('look-at-images', { parcelId: asset.parcelId });
  await db().update(conversions).set({ path, report }).where(eq(conversions.id, id));
  await touchParcel(asset.parcelId, `Converted ${image} to ${to}`);
}

function convertedPath(image: string, to: string, extension: string): string {
  const folder = folderOf(image);
  return `${folder === '' ? '' : `${folder}/`}converted/${stemOf(fileName(image))}.${to}.${extension}`;
}
