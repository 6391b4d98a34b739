import type { Edit, ParcelImage } from '@kinkajou/core/asset/asset';
import { type Overlay, type OverlayFile, overlayFiles } from '@kinkajou/core/asset/overlay';
import { scanImage } from '@kinkajou/core/asset/scanImages';
import { describeEdit, replay } from '@kinkajou/core/edits/log';
import { KinkajouError } from '@kinkajou/core/errors';
import { findFindings } from '@kinkajou/core/findings/checks';
import type { Finding } from '@kinkajou/core/findings/finding';
import { isImagePath } from '@kinkajou/core/images/format';
import { JOINED, parseJoined, pathsIn } from '@kinkajou/core/join/joinedFile';
import { extensionOf } from '@kinkajou/core/parcel/fileSource';
import { isModelPath } from '@kinkajou/core/readModel';
import { and, asc, desc, eq } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import type { DeliverySummary } from '../db/rowTypes.ts';
import { assets, deliveries, edits, parcelFiles, parcels } from '../db/schema.ts';
import { publish } from '../events.ts';
import { enqueue } from '../jobs/queue.ts';
import type { JobRun } from '../jobs/runJob.ts';
import { notFound } from '../respond.ts';
import { type AssetRow, findAsset } from './assetRow.ts';
import { currentState } from './assetState.ts';
import { knowledgeFor } from './knowledge.ts';
import { findParcel, parcelSource } from './parcelFiles.ts';
import { assetRowOf, unpackArchives } from './parcels.ts';
import { moveRevision } from './revisions.ts';
import { refreshSeverities } from './shelf.ts';
import { laterTally } from './tally.ts';
import { requestThumbnail } from './thumbnails.ts';

/** A file of a delivery, its content in the blob store. */
export interface DeliveredFile {
  path: string;
  sha256: string;
  size: number;
  modified: Date | null;
}

type FileRow = typeof parcelFiles.$inferSelect;
/** A file as it gets a place in a parcel. */
export type PlacedFile = Pick<FileRow, 'path' | 'sha256' | 'size' | 'modified' | 'info' | 'fault'>;

/** The parcel of an upload is complete: a worker lays it over the asset. */
export async function closeDelivery(parcelId: string, assetId: string): Promise<void> {
  await findAsset(assetId);
  if ((await findParcel(parcelId)).state !== 'uploading')
    throw new KinkajouError(
      'conflict',
      'this parcel was closed already; a delivery needs an upload of its own',
    );
  const jobId = await enqueue('read-delivery', { parcelId, assetId });
  await db().update(parcels).set({ state: 'reading', jobId }).where(eq(parcels.id, parcelId));
  await publish({ topic: 'parcel', id: parcelId });
}

/**
 * The job: unpacks and reads a newer delivery. On failure the asset stays as it was, and the parcel says why.
 */
export async function readDelivery({
  data: { parcelId, assetId },
  progress,
}: JobRun<'read-delivery'>): Promise<void> {
  const faults = await unpackArchives(parcelId, (share, doing) => progress(0.3 * share, doing));
  const [parcel] = await db().select().from(parcels).where(eq(parcels.id, parcelId));
  if (!parcel) throw notFound('parcel');
  progress(0.3, 'laying it over the asset');
  // A worker may have ended after it was laid over and before that was said.
  const [laid] = await db()
    .select({ id: deliveries.id })
    .from(deliveries)
    .where(eq(deliveries.parcelId, parcelId));
  if (!laid) await layOver(assetId, parcelId, parcel.name, await filesOf(parcelId));
  await db().update(parcels).set({ state: 'ready', faults }).where(eq(parcels.id, parcelId));
  await publish({ topic: 'parcel', id: parcelId });
}

/**
 * Delivers files that are in the blob store already, as a watched folder does. Returns null when nothing is
 * new.
 */
export async function deliverFiles(
  assetId: string,
  from: string,
  files: readonly DeliveredFile[],
): Promise<DeliverySummary | null> {
  const asset = await findAsset(assetId);
  const old = await filesOf(asset.parcelId);
  const { replaced, added } = await overlayOf<{ path: string; sha256: string }>(asset, old, files);
  if (replaced.length + added.length === 0) return null;
  const [{ id: parcelId }] = await db()
    .insert(parcels)
    .values({ name: from, state: 'reading' })
    .returning({ id: parcels.id });
  await db()
    .insert(parcelFiles)
    .values(files.map((file) => ({ parcelId, kind: 'file' as const, ...file })));
  try {
    const rows = await db().select().from(parcelFiles).where(eq(parcelFiles.parcelId, parcelId));
    const summary = await layOver(assetId, parcelId, from, rows);
    await db().update(parcels).set({ state: 'ready' }).where(eq(parcels.id, parcelId));
    return summary;
  } catch (error) {
    await db().delete(parcels).where(eq(parcels.id, parcelId));
    throw error;
  }
}

async function layOver(
  assetId: string,
  parcelId: string,
  from: string,
  delivered: FileRow[],
): Promise<DeliverySummary> {
  if (delivered.length === 0)
    throw new KinkajouError(
      'parcel.empty',
      'there are no files in it',
      { file: from },
      'Drop the new files or a zip of them.',
    );
  const asset = await findAsset(assetId);
  const overlay = await overlayOf(asset, await filesOf(asset.parcelId), delivered);
  return makeWhole({ assetId, parcelId, from, overlay, text: `New delivery: ${from}` });
}

/** Newer files over an asset's. Where models are joined in it, newer files of one of them leave it joined. */
async function overlayOf<T extends OverlayFile>(
  asset: AssetRow,
  old: readonly T[],
  delivered: readonly T[],
): Promise<Overlay<T>> {
  if (extensionOf(asset.model) !== JOINED) return overlayFiles(old, delivered, asset.model, isModelPath);
  const joined = old.find(({ path }) => path === asset.model);
  const paths = pathsIn(parseJoined(await blobs.get(joined?.sha256 ?? ''), asset.model), asset.model);
  const overlay = overlayFiles(old, delivered, paths[0], isModelPath);
  return paths.includes(overlay.model) ? { ...overlay, model: asset.model } : overlay;
}

/** What a parcel becomes: the whole of an asset, with who brought it and what is told of that. */
interface Whole {
  assetId: string;
  parcelId: string;
  from: string;
  overlay: Overlay<PlacedFile>;
  text: string;
}

/** Makes a parcel the whole of the asset: these files; then reads the model anew. */
export async function makeWhole({ assetId, parcelId, from, overlay, text }: Whole): Promise<DeliverySummary> {
  const asset = await findAsset(assetId);
  const before = await currentState(assetId);
  const rows = await Promise.all([...overlay.files].map(([path, row]) => placedRow(parcelId, path, row)));
  await db().transaction(async (tx) => {
    await tx.delete(parcelFiles).where(and(eq(parcelFiles.parcelId, parcelId), eq(parcelFiles.kind, 'file')));
    for (let i = 0; i < rows.length; i += 500) await tx.insert(parcelFiles).values(rows.slice(i, i + 500));
  });
  const row = await assetRowOf(await parcelSource(parcelId), parcelId, overlay.model);
  const applied = await appliedEdits(asset);
  const images = [
    ...rows.filter((file) => file.info || file.fault).map(asImage),
    ...row.embedded.map((image) => ({ ...image, modified: null })),
  ];
  const { state, skipped } = replay(row.source, applied, images);
  const after = findFindings(row.source, state, images, await knowledgeFor(images));
  const [materialsBefore, materialsAfter] = [before.asset.source.materials, row.source.materials].map(
    (list) => list.map((material) => material.key),
  );
  const summary: DeliverySummary = {
    from,
    replaced: overlay.replaced,
    added: overlay.added,
    unchanged: overlay.unchanged,
    modelChanged: overlay.model !== asset.model || overlay.replaced.some(isModelPath),
    materialsAdded: without(materialsAfter, materialsBefore),
    materialsRemoved: without(materialsBefore, materialsAfter),
    skipped: skipped.map(({ edit, what }) => `${describeEdit(applied[edit])}: ${what} is not there`),
    findingsAdded: without(titlesOf(after), titlesOf(before.findings)),
    findingsGone: without(titlesOf(before.findings), titlesOf(after)),
  };
  const revision = await db().transaction(async (tx) => {
    await tx
      .update(assets)
      .set({ ...row, parcelId, model: overlay.model, ...laterTally(after), ...changedNow(text) })
      .where(eq(assets.id, assetId));
    await tx
      .insert(deliveries)
      .values({ assetId, parcelId, previousParcelId: asset.parcelId, previousModel: asset.model, summary });
    return moveRevision(tx, assetId, { text });
  });
  await enqueue('look-at-images', { parcelId });
  await requestThumbnail(assetId);
  await publish({ topic: 'asset', id: assetId, revision });
  return summary;
}

/** Takes the newest delivery back: the asset has its earlier files again, and its edit log as it is. */
export async function undoDelivery(assetId: string): Promise<void> {
  const [last] = await db()
    .select()
    .from(deliveries)
    .where(eq(deliveries.assetId, assetId))
    .orderBy(desc(deliveries.createdAt))
    .limit(1);
  if (!last) throw new KinkajouError('delivery.none', 'there is no newer delivery to take back');
  const row = await assetRowOf(
    await parcelSource(last.previousParcelId),
    last.previousParcelId,
    last.previousModel,
  );
  const text = `Took back the delivery ${last.summary.from}`;
  const revision = await db().transaction(async (tx) => {
    await tx
      .update(assets)
      .set({ ...row, parcelId: last.previousParcelId, model: last.previousModel, ...changedNow(text) })
      .where(eq(assets.id, assetId));
    await tx.delete(deliveries).where(eq(deliveries.id, last.id));
    return moveRevision(tx, assetId, { text });
  });
  await db().delete(parcels).where(eq(parcels.id, last.parcelId));
  await refreshSeverities(assetId);
  await requestThumbnail(assetId);
  await publish({ topic: 'asset', id: assetId, revision });
}

function changedNow(lastEdit: string) {
  return { lastEdit, updatedAt: new Date() };
}

/** What a parcel holds, archives aside. */
export function filesOf(parcelId: string): Promise<FileRow[]> {
  return db()
    .select()
    .from(parcelFiles)
    .where(and(eq(parcelFiles.parcelId, parcelId), eq(parcelFiles.kind, 'file')));
}

async function placedRow(
  parcelId: string,
  path: string,
  { sha256, size, modified, info, fault }: PlacedFile,
) {
  const base = { parcelId, path, kind: 'file' as const, sha256, size, modified };
  if (info || fault || !isImagePath(path)) return { ...base, info, fault };
  const header = await scanImage(path, await blobs.get(sha256), modified);
  return { ...base, info: header.info, fault: header.fault };
}

function asImage({
  path,
  size,
  sha256,
  modified,
  info,
  fault,
}: Awaited<ReturnType<typeof placedRow>>): ParcelImage {
  return { path, size, sha256, modified: modified?.toISOString() ?? null, info, fault };
}

/** The edits that are in force, in order. */
export async function appliedEdits(asset: AssetRow): Promise<Edit[]> {
  const rows = await db().select().from(edits).where(eq(edits.assetId, asset.id)).orderBy(asc(edits.seq));
  return rows.filter((row) => row.seq <= asset.cursor).map((row) => row.edit);
}

function titlesOf(findings: readonly Finding[]): string[] {
  return findings
    .filter(({ severity }) => severity !== 'note')
    .map(({ title, subject }) => `${title}: ${subject}`);
}

function without(list: readonly string[], others: readonly string[]): string[] {
  const existing = new Set(others);
  return [...new Set(list)].filter((item) => !existing.has(item));
}
