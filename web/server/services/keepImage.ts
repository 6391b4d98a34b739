import { scanImage } from '@kinkajou/core/asset/scanImages';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { parcelFiles } from '../db/schema.ts';

/** Puts an image that was made here into a parcel, beside what was delivered. */
export async function keepImage(parcelId: string, path: string, bytes: Uint8Array): Promise<void> {
  const sha256 = await blobs.put(bytes);
  const { info, fault } = await scanImage(path, bytes, null);
  const content = { kind: 'file' as const, sha256, size: bytes.length, modified: new Date(), info, fault };
  await db()
    .insert(parcelFiles)
    .values({ parcelId, path, ...content })
    .onConflictDoUpdate({ target: [parcelFiles.parcelId, parcelFiles.path], set: content });
}
