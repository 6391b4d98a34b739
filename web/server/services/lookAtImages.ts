import type { ParcelImage } from '@kinkajou/core/asset/asset';
import { faultOf } from '@kinkajou/core/asset/collectFacts';
import { KinkajouError } from '@kinkajou/core/errors';
import { decodeImage } from '@kinkajou/core/images/decode';
import { FACTS_VERSION, lookAtPixels, type PixelFacts } from '@kinkajou/core/maps/pixelFacts';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { and, eq, inArray } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { assets, imageFacts, parcelFiles } from '../db/schema.ts';
import { publish } from '../events.ts';
import type { JobRun } from '../jobs/runJob.ts';
import { type AssetRow, assetImages } from './assetRow.ts';
import { touchParcel } from './revisions.ts';
import { refreshSeverities } from './shelf.ts';

type FileFault = NonNullable<ParcelImage['fault']>;

const TELL_MS = 700;
const LOOKED = 'Looked at the pixels of its images';

/** The job: looks at every image of a parcel that nobody has looked at, then brings its assets up to date. */
export async function lookAtImages({
  data: { parcelId },
  progress,
}: JobRun<'look-at-images'>): Promise<void> {
  const rows = await db().select().from(assets).where(eq(assets.parcelId, parcelId));
  const images = new Map<string, ParcelImage>();
  for (const asset of rows)
    for (const image of await assetImages(asset)) if (image.info) images.set(image.sha256, image);
  const hashes = [...images.keys()];
  const looked =
    hashes.length === 0 ? [] : await db().select().from(imageFacts).where(inArray(imageFacts.sha256, hashes));
  const existing = new Map(
    looked.filter(({ version }) => version === FACTS_VERSION).map((row) => [row.sha256, row]),
  );
  const damaged = new Map(
    [...existing].flatMap(([sha256, { fault }]) => (fault ? [[sha256, fault] as const] : [])),
  );
  let reported = Date.now();
  for (const [i, [sha256, image]] of [...images].entries()) {
    if (existing.has(sha256)) continue;
    progress(i / images.size, `looking at ${image.path}`);
    const { facts, fault } = await look(sha256, image.path);
    // A content that is missing is no fault of its image: whoever needs it says so, and it heals when it
    // arrives again.
    if (fault && !fault.code.startsWith('blob.')) damaged.set(sha256, fault);
    // What was too slow or too large today is tried again when it arrives again.
    if (fault && !fault.code.startsWith('image.')) continue;
    const row = { version: FACTS_VERSION, facts, fault };
    await db()
      .insert(imageFacts)
      .values({ sha256, ...row })
      .onConflictDoUpdate({ target: imageFacts.sha256, set: row });
    if (Date.now() - reported < TELL_MS) continue;
    reported = Date.now();
    await touchParcel(parcelId, LOOKED);
  }
  await markDamaged(parcelId, rows, damaged);
  await touchParcel(parcelId, LOOKED);
  for (const asset of rows) await refreshSeverities(asset.id);
  await publish({ topic: 'shelf', id: parcelId });
}

async function look(
  sha256: string,
  path: string,
): Promise<{ facts: PixelFacts | null; fault: FileFault | null }> {
  try {
    return {
      facts: lookAtPixels(
        await decodeImage(await blobs.get(sha256), path, { limits: limitsFromEnvironment() }),
      ),
      fault: null,
    };
  } catch (error) {
    if (error instanceof KinkajouError) return { facts: null, fault: faultOf(error, path) };
    throw error;
  }
}

/** Images whose pixels cannot be had are from now on, in this parcel, as those whose headers are damaged. */
async function markDamaged(
  parcelId: string,
  rows: readonly AssetRow[],
  damaged: ReadonlyMap<string, FileFault>,
): Promise<void> {
  for (const [sha256, fault] of damaged)
    await db()
      .update(parcelFiles)
      .set({ info: null, fault })
      .where(and(eq(parcelFiles.parcelId, parcelId), eq(parcelFiles.sha256, sha256)));
  for (const { id, embedded } of rows) {
    if (!embedded.some(({ sha256 }) => damaged.has(sha256))) continue;
    const marked = embedded.map((image) =>
      damaged.has(image.sha256) ? { ...image, info: null, fault: damaged.get(image.sha256) ?? null } : image,
    );
    await db().update(assets).set({ embedded: marked }).where(eq(assets.id, id));
  }
}
