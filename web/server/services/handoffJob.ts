import { scanImage } from '@kinkajou/core/asset/scanImages';
import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import type { BakeCache } from '@kinkajou/core/handoff/bakeImages';
import { handOff } from '@kinkajou/core/handoff/handoff';
import { openPackage, packagePairs } from '@kinkajou/core/handoff/openPackage';
import { packageZip } from '@kinkajou/core/handoff/packageZip';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
import { previewGlb } from '@kinkajou/core/preview/previewGlb';
import { eq } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { bakedImages, type HandoffReading, handoffs } from '../db/schema.ts';
import { publish } from '../events.ts';
import { currentState, reopenAsset } from './assets.ts';
import { findHandoff } from './handoffs.ts';

const CANCEL_POLL_MS = 400;

/** The job: makes the package, keeps its zip, records the receipt and how the package reads. */
export async function runHandoff(id: string): Promise<void> {
  const row = await findHandoff(id);
  if (row.state !== 'queued') return;
  const abort = new AbortController();
  const update = (values: Partial<typeof handoffs.$inferInsert>) => db().update(handoffs).set(values).where(eq(handoffs.id, id));
  const told = { progress: 0, doing: 'opening the model' };
  await update({ state: 'running', ...told });
  const beat = setInterval(() => void tell(), CANCEL_POLL_MS);
  const tell = async () => {
    const [now] = await update(told).returning({ cancel: handoffs.cancelRequested });
    if (!now || now.cancel) abort.abort();
    await publish({ topic: 'handoff', id: row.assetId });
  };
  try {
    if (!row.profile) throw new KinkajouError('handoff.destination', `the destination "${row.destination}" was not kept`);
    const { asset, state, applied, findings, images } = await currentState(row.assetId);
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
      progress: (progress, doing) => Object.assign(told, { progress: progress * 0.95, doing }),
      signal: abort.signal,
      cache: blobCache,
    });
    Object.assign(told, { progress: 0.96, doing: 'packing' });
    const zip = await packageZip(files);
    const reading = await keepReading(files);
    clearInterval(beat);
    const failed = receipt.verdict === 'failed';
    const fault = failed ? { code: 'handoff.check', message: failedChecks(receipt.readBack.checks), hint: '', file: '' } : null;
    await update({
      state: failed ? 'failed' : 'done',
      progress: 1,
      doing: '',
      receipt,
      reading,
      fault,
      zip: await blobs.put(zip),
      zipSize: zip.length,
      finishedAt: new Date(),
    });
  } catch (error) {
    clearInterval(beat);
    const known = toKinkajouError(error);
    const cancelled = known.code === 'handoff.cancelled';
    await update({
      state: cancelled ? 'cancelled' : 'failed',
      doing: '',
      finishedAt: new Date(),
      fault: cancelled ? null : { code: known.code, message: known.toText(), hint: known.hint, file: known.place.file ?? '' },
    });
  }
  await publish({ topic: 'handoff', id: row.assetId });
}

/** Baked images lie among the blobs; what an earlier handoff made is not made again. */
const blobCache: BakeCache = {
  async get(key) {
    const [row] = await db().select().from(bakedImages).where(eq(bakedImages.key, key));
    return row && (await blobs.has(row.sha256)) ? blobs.get(row.sha256) : null;
  },
  async put(key, bytes) {
    const sha256 = await blobs.put(bytes);
    await db().insert(bakedImages).values({ key, sha256 }).onConflictDoUpdate({ target: bakedImages.key, set: { sha256 } });
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
  return { models, pairs: packagePairs(made.sheet), metresPerUnit: made.models[0]?.source.metresPerUnit ?? 1 };
}

function failedChecks(checks: { check: string; ok: boolean; expected: string; found: string }[]): string {
  return checks
    .filter((check) => !check.ok)
    .map((check) => `${check.check}: expected ${check.expected}, found ${check.found}`)
    .join('; ');
}
