import type { ParcelImage } from '@kinkajou/core/asset/asset';
import { KinkajouError } from '@kinkajou/core/errors';
import { decodeImage } from '@kinkajou/core/images/decode';
import { FACTS_VERSION, lookAtPixels, type PixelFacts } from '@kinkajou/core/maps/pixelFacts';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { eq, inArray } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { assets, imageFacts } from '../db/schema.ts';
import { publish } from '../events.ts';
import type { JobRun } from '../jobs/runJob.ts';
import { assetImages } from './assetRow.ts';
import { touchParcel } from './revisions.ts';
import { refreshSeverities } from './shelf.ts';

const TELL_MS = 700;
const LOOKED = 'Looked at the pixels of its images';

/** The job: looks at every image of a parcel that nobody has looked at, then brings its assets up to date. */
export async function lookAtImages({ data: { parcelId }, progress }: JobRun<'look-at-images'>): Promise<void> {
  const rows = await db().select().from(assets).where(eq(assets.parcelId, parcelId));
  const images = new Map<string, ParcelImage>();
  for (const asset of rows) for (const image of await assetImages(asset)) if (image.info) images.set(image.sha256, image);
  const existing = new Set(
    images.size === 0
      ? []
      : (
          await db()
            .select()
            .from(imageFacts)
            .where(inArray(imageFacts.sha256, [...images.keys()]))
        )
          .filter((row) => row.version === FACTS_VERSION)
          .map((row) => row.sha256),
  );
  let reported = Date.now();
  for (const [i, [sha256, image]] of [...images].entries()) {
    if (existing.has(sha256)) continue;
    progress(i / images.size, `looking at ${image.path}`);
    const facts = await look(sha256, image.path);
    const row = { version: FACTS_VERSION, facts };
    await db()
      .insert(imageFacts)
      .values({ sha256, ...row })
      .onConflictDoUpdate({ target: imageFacts.sha256, set: row });
    if (Date.now() - reported < TELL_MS) continue;
    reported = Date.now();
    await touchParcel(parcelId, LOOKED);
  }
  await touchParcel(parcelId, LOOKED);
  for (const asset of rows) await refreshSeverities(asset.id);
  await publish({ topic: 'shelf', id: parcelId });
}

async function look(sha256: string, path: string): Promise<PixelFacts | null> {
  try {
    return lookAtPixels(await decodeImage(await blobs.get(sha256), path, { limits: limitsFromEnvironment() }));
  } catch (error) {
    // Damaged pixels under a good header: whoever reads them reports it.
    if (error instanceof KinkajouError) return null;
    throw error;
  }
}
