import { scanImage } from '@kinkajou/core/asset/scanImages';
import { KinkajouError } from '@kinkajou/core/errors';
import type { BakeCache } from '@kinkajou/core/handoff/bake/bakeImages';
import { handOff } from '@kinkajou/core/handoff/handoff';
import { openPackage, packagePairs } from '@kinkajou/core/handoff/readBack/openPackage';
import { packageZip } from '@kinkajou/core/handoff/write/packageZip';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
import { previewGlb } from '@kinkajou/core/preview/previewGlb';
import { eq } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import type { HandoffReading } from '../db/rowTypes.ts';
import { bakedImages, handoffs } from '../db/schema.ts';
import type { JobRun } from '../jobs/runJob.ts';
import { reopenAsset } from './assetRow.ts';
import { currentState } from './assetState.ts';
import { findHandoff } from './handoffs.ts';

/** The job: makes the package, keeps its zip, records the receipt and how the package reads. */
export async function runHandoff({
  id,
  data: { assetId },
  signal,
  progress,
}: JobRun<'hand-off'>): Promise<void> {
  progress(0, 'opening the model');
  const row = await findHandoff(id);
  if (!row.profile)
    throw new KinkajouError('handoff.destination', `the destination "${row.destination}" was not kept`);
  const { asset, state, applied, findings, images } = await currentState(assetId);
  const open = await reopenAsset(asset);
  const { files, receipt } = await handOff({
    document: open.document,
    source: asset.source,
    state,
    edits: applied,
    findings,
    images,
    destination: row.profile,
    choices: row.choices,
    picture: asset.thumbnail ? await blobs.get(asset.thumbnail) : null,
    read: open.read,
    progress: (share, doing) => progress(share * 0.95, doing),
    signal,
    cache: blobCache,
    readEnvironment: readUploaded,
  });
  progress(0.96, 'packing');
  const zip = await packageZip(files);
  const reading = await keepReading(files);
  await db()
    .update(handoffs)
    .set({ receipt, reading, zip: await blobs.put(zip), zipSize: zip.length })
    .where(eq(handoffs.id, id));
  // The package is kept for whoever looks into what went wrong.
  if (receipt.verdict === 'failed')
    throw new KinkajouError('handoff.check', failedChecks(receipt.readBack.checks));
}

/** The picture behind `file:SHA256.hdr`, as the view calls what was uploaded. */
async function readUploaded(image: string): Promise<Uint8Array> {
  const [, sha256] = /^file:([0-9a-f]{64})\.(?:hdr|exr)$/.exec(image) ?? [];
  if (sha256 && (await blobs.has(sha256))) return blobs.get(sha256);
  throw new KinkajouError(
    'handoff.stage',
    `the environment ${image} is gone`,
    {},
    'Choose another in the view.',
  );
}

/** Baked images lie among the blobs; what an earlier handoff made is not made again. */
const blobCache: BakeCache = {
  async get(key) {
    const [row] = await db().select().from(bakedImages).where(eq(bakedImages.key, key));
    return row && (await blobs.has(row.sha256)) ? blobs.get(row.sha256) : null;
  },
  async put(key, bytes) {
    const sha256 = await blobs.put(bytes);
    await db()
      .insert(bakedImages)
      .values({ key, sha256 })
      .onConflictDoUpdate({ target: bakedImages.key, set: { sha256 } });
  },
};

/** Reads the package as its receiver does, and keeps what looking at it needs. */
async function keepReading(files: ReadonlyMap<string, Uint8Array>): Promise<HandoffReading> {
  const made = await openPackage(memorySource('package', Object.fromEntries(files)));
  const models: HandoffReading['models'] = [];
  for (const { document, source, images, read } of made.models) {
    const kept: HandoffReading['models'][number]['images'] = [];
    for (const { path } of images) {
      const bytes = await read(path);
      await blobs.put(bytes);
      kept.push(await scanImage(path, bytes, null));
    }
    models.push({ source, images: kept, geometry: await blobs.put(await previewGlb(document)) });
  }
  return {
    models,
    pairs: packagePairs(made.sheet),
    metresPerUnit: made.models[0]?.source.metresPerUnit ?? 1,
  };
}

function failedChecks(checks: { check: string; ok: boolean; expected: string; found: string }[]): string {
  return checks
    .filter((check) => !check.ok)
    .map((check) => `${check.check}: expected ${check.expected}, found ${check.found}`)
    .join('; ');
}
