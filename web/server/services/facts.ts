import type { ParcelImage } from '@kinkajou/core/asset/asset';
import type { FactsByHash } from '@kinkajou/core/asset/collectFacts';
import { KinkajouError } from '@kinkajou/core/errors';
import { countSeverities } from '@kinkajou/core/findings/checks';
import { decodeImage } from '@kinkajou/core/images/decode';
import { FACTS_VERSION, lookAtPixels, type PixelFacts } from '@kinkajou/core/maps/pixelFacts';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { eq, inArray } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { assets, imageFacts } from '../db/schema.ts';
import { publish } from '../events.ts';
import type { JobRun } from '../jobs/runJob.ts';
import { assetImages, currentState } from './assets.ts';

/** Facts never change for a content, so each process keeps those that it has read. */
const kept = new Map<string, PixelFacts>();
const KEPT_MOST = 20_000;
const TELL_MS = 700;

/** What is known of the pixels of these images. */
export async function factsFor(images: readonly ParcelImage[]): Promise<FactsByHash> {
  const hashes = [...new Set(images.filter((image) => image.info).map((image) => image.sha256))];
  const unknown = hashes.filter((hash) => !kept.has(hash));
  if (unknown.length > 0) {
    if (kept.size > KEPT_MOST) kept.clear();
    for (const row of await db().select().from(imageFacts).where(inArray(imageFacts.sha256, unknown)))
      if (row.facts && row.version === FACTS_VERSION) kept.set(row.sha256, row.facts);
  }
  return new Map(hashes.flatMap((hash) => (kept.has(hash) ? [[hash, kept.get(hash) as PixelFacts] as const] : [])));
}

/** How many of the images were looked at, those included whose pixels turned out to be damaged. */
export async function countLooked(images: readonly ParcelImage[], facts: FactsByHash): Promise<{ done: number; total: number }> {
  const hashes = [...new Set(images.filter((image) => image.info).map((image) => image.sha256))];
  const without = hashes.filter((hash) => !facts.has(hash));
  if (without.length === 0) return { done: hashes.length, total: hashes.length };
  const damaged = await db().select({ sha256: imageFacts.sha256 }).from(imageFacts).where(inArray(imageFacts.sha256, without));
  return { done: hashes.length - without.length + damaged.length, total: hashes.length };
}

/** The job: looks at every image of a parcel that nobody has looked at, then brings its assets up to date. */
export async function lookAtImages({ data: { parcelId }, progress }: JobRun<'look-at-images'>): Promise<void> {
  const rows = await db().select().from(assets).where(eq(assets.parcelId, parcelId));
  const images = new Map<string, ParcelImage>();
  for (const asset of rows) for (const image of await assetImages(asset)) if (image.info) images.set(image.sha256, image);
  const known = new Set(
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
  let told = Date.now();
  for (const [i, [sha256, image]] of [...images].entries()) {
    if (known.has(sha256)) continue;
    progress(i / images.size, `looking at ${image.path}`);
    const facts = await look(sha256, image.path);
    const row = { version: FACTS_VERSION, facts };
    await db()
      .insert(imageFacts)
      .values({ sha256, ...row })
      .onConflictDoUpdate({ target: imageFacts.sha256, set: row });
    if (Date.now() - told < TELL_MS) continue;
    told = Date.now();
    for (const asset of rows) await publish({ topic: 'asset', id: asset.id });
  }
  for (const asset of rows) {
    const { findings } = await currentState(asset.id);
    await db()
      .update(assets)
      .set({ severities: countSeverities(findings) })
      .where(eq(assets.id, asset.id));
    await publish({ topic: 'asset', id: asset.id });
  }
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

/** What is known of one content. */
export async function factsOf(sha256: string): Promise<PixelFacts | null> {
  const [row] = await db().select().from(imageFacts).where(eq(imageFacts.sha256, sha256));
  return row?.version === FACTS_VERSION ? row.facts : null;
}
