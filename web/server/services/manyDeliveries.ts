import { shareOfDelivery } from '@kinkajou/core/asset/shareOfDelivery';
import { KinkajouError } from '@kinkajou/core/errors';
import { isModelPath } from '@kinkajou/core/readModel';
import { and, desc, eq, sql } from 'drizzle-orm';
import { db } from '../db/client.ts';
import type { DeliverySummary } from '../db/rowTypes.ts';
import { deliveries, jobs, parcelFiles, parcels } from '../db/schema.ts';
import { publish } from '../events.ts';
import { findAsset } from './assetRow.ts';
import { type DeliveredFile, deliverFiles, undoDelivery } from './deliveries.ts';
import { findParcel } from './parcelFiles.ts';
import { unpackArchives } from './parcels.ts';

/** A delivery that holds something for several assets. */
export interface DeliveryForMany {
  name: string;
  files: DeliveredFile[];
}

/** What an asset got of it. */
export interface DeliveredShare {
  /** The parcel that it has its files from now; null where nothing was new. */
  parcel: string | null;
  text: string;
}

/** An upload that a run is asked to deliver is closed, so that nothing more comes into it. */
export async function closeForMany(parcelId: string): Promise<void> {
  if ((await findParcel(parcelId)).state !== 'uploading')
    throw new KinkajouError(
      'conflict',
      'this parcel was closed already; a delivery needs an upload of its own',
    );
  await db().update(parcels).set({ state: 'reading' }).where(eq(parcels.id, parcelId));
  await publish({ topic: 'parcel', id: parcelId });
}

/** Unpacks it; begun anew, what is unpacked already stays. */
export async function openForMany(
  parcelId: string,
  progress: (share: number, doing: string) => void,
): Promise<DeliveryForMany> {
  const { name } = await findParcel(parcelId);
  await unpackArchives(parcelId, progress);
  const files = await db()
    .select({
      path: parcelFiles.path,
      sha256: parcelFiles.sha256,
      size: parcelFiles.size,
      modified: parcelFiles.modified,
    })
    .from(parcelFiles)
    .where(and(eq(parcelFiles.parcelId, parcelId), eq(parcelFiles.kind, 'file')));
  return { name, files };
}

/** Throws `run.delivery` where an upload was delivered to its end and is not there any more. */
export async function refuseSpent(parcelId: string): Promise<void> {
  const [row] = await db().select({ id: parcels.id }).from(parcels).where(eq(parcels.id, parcelId));
  if (!row)
    throw new KinkajouError(
      'run.delivery',
      'what this run delivered is not kept beside the assets that got it',
      {},
      'Deliver the files again, to those that are left.',
    );
}

/** What was delivered to assets is in parcels of theirs; the upload itself is needed no more. */
export async function closeOpened(parcelId: string): Promise<void> {
  await db().delete(parcels).where(eq(parcels.id, parcelId));
  await publish({ topic: 'parcel', id: parcelId });
}

/**
 * Lays over an asset what is its own of a delivery. Throws where nothing is, or several things fit as well.
 */
export async function deliverShare(
  assetId: string,
  { name, files }: DeliveryForMany,
  job: string,
): Promise<DeliveredShare> {
  const asset = await findAsset(assetId);
  const own = await db()
    .select({ path: parcelFiles.path })
    .from(parcelFiles)
    .where(and(eq(parcelFiles.parcelId, asset.parcelId), eq(parcelFiles.kind, 'file')));
  const share = new Set(
    shareOfDelivery(
      files.map(({ path }) => path),
      { model: asset.model, files: own.map(({ path }) => path), isModel: isModelPath },
    ),
  );
  const summary = await deliverFiles(
    assetId,
    name,
    files.filter(({ path }) => share.has(path)),
  );
  // Nothing is new for one that got it before the run was begun anew.
  const since = await deliveredSince(assetId, job);
  const told = summary ?? since?.summary;
  return {
    parcel: since?.parcelId ?? null,
    text: told ? summaryWords(told) : 'nothing in the delivery is new',
  };
}

/** Gives an asset the files back that it had before; false where another delivery came since. */
export async function takeShareBack(assetId: string, parcel: string): Promise<boolean> {
  const [last] = await db()
    .select()
    .from(deliveries)
    .where(eq(deliveries.assetId, assetId))
    .orderBy(desc(deliveries.createdAt))
    .limit(1);
  if (last?.parcelId !== parcel) return false;
  await undoDelivery(assetId);
  return true;
}

async function deliveredSince(assetId: string, job: string) {
  const since = db().select({ at: jobs.createdAt }).from(jobs).where(eq(jobs.id, job));
  const [row] = await db()
    .select({ parcelId: deliveries.parcelId, summary: deliveries.summary })
    .from(deliveries)
    .where(and(eq(deliveries.assetId, assetId), sql`${deliveries.createdAt} >= (${since})`))
    .orderBy(desc(deliveries.createdAt))
    .limit(1);
  return row;
}

function summaryWords({ replaced, added, skipped, findingsAdded, findingsGone }: DeliverySummary): string {
  const parts = [`${replaced.length} replaced`, `${added.length} added`];
  if (skipped.length > 0) parts.push(`${skipped.length} edits no longer apply`);
  if (findingsAdded.length > 0) parts.push(`${findingsAdded.length} new findings`);
  if (findingsGone.length > 0) parts.push(`${findingsGone.length} findings gone`);
  return `newer files: ${parts.join(', ')}`;
}
