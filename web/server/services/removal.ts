import { and, count, eq, isNotNull, isNull, sql } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { assets, deliveries, edits, handoffs, parcelFiles, parcels, watchedFolders } from '../db/schema.ts';
import { publish } from '../events.ts';
import { cancelJob } from '../jobs/queue.ts';
import { notFound } from '../respond.ts';
import { findAsset } from './assetRow.ts';
import { moveKnowledge } from './revisions.ts';

/** What hangs on an asset, for who is about to remove it. */
export interface Hanging {
  edits: number;
  handoffs: number;
  deliveries: number;
  /** Folder that it watches. */
  watches: string | null;
  /** Files of its parcel, and other assets that use them. */
  files: number;
  bytes: number;
  siblings: string[];
}

/** What would go with an asset that is removed. */
export async function hangingOn(id: string): Promise<Hanging> {
  const { parcelId } = await findAsset(id);
  const number = async (table: typeof edits | typeof handoffs | typeof deliveries) => {
    const [{ total }] = await db().select({ total: count() }).from(table).where(eq(table.assetId, id));
    return total;
  };
  const [watched] = await db()
    .select({ path: watchedFolders.path })
    .from(watchedFolders)
    .where(eq(watchedFolders.assetId, id));
  const size = sql<number>`coalesce(sum(${parcelFiles.size}), 0)::float8`;
  const [files] = await db()
    .select({ files: count(), bytes: size })
    .from(parcelFiles)
    .where(eq(parcelFiles.parcelId, parcelId));
  const siblings = await db()
    .select({ id: assets.id, name: assets.name })
    .from(assets)
    .where(and(eq(assets.parcelId, parcelId), isNull(assets.removedAt)));
  return {
    edits: await number(edits),
    handoffs: await number(handoffs),
    deliveries: await number(deliveries),
    watches: watched?.path ?? null,
    ...files,
    siblings: siblings.filter((other) => other.id !== id).map(({ name }) => name),
  };
}

/** Takes an asset off the shelf, with all that hangs on it. Nothing is lost before a sweep. */
export async function removeAsset(id: string): Promise<void> {
  const removed = await db()
    .update(assets)
    .set({ removedAt: new Date() })
    .where(and(eq(assets.id, id), isNull(assets.removedAt)))
    .returning({ id: assets.id });
  if (removed.length === 0) throw notFound('asset');
  await shelfMoved(id);
}

/** Puts it back where it was, edit log and handoffs included. */
export async function bringBack(id: string): Promise<void> {
  const back = await db()
    .update(assets)
    .set({ removedAt: null })
    .where(and(eq(assets.id, id), isNotNull(assets.removedAt)))
    .returning({ id: assets.id });
  if (back.length === 0) throw notFound('removed asset');
  await shelfMoved(id);
}

/** Removes all assets of a parcel as one by one; a parcel without any goes at once. */
export async function removeParcel(id: string): Promise<void> {
  const [row] = await db().select({ jobId: parcels.jobId }).from(parcels).where(eq(parcels.id, id));
  if (row?.jobId) await cancelJob(row.jobId);
  const of = eq(assets.parcelId, id);
  const kept = await db().select({ id: assets.id }).from(assets).where(of);
  if (kept.length === 0) await db().delete(parcels).where(eq(parcels.id, id));
  else
    await db()
      .update(assets)
      .set({ removedAt: new Date() })
      .where(and(of, isNull(assets.removedAt)));
  await shelfMoved(id);
}

async function shelfMoved(id: string): Promise<void> {
  await moveKnowledge();
  await publish({ topic: 'shelf', id });
}
