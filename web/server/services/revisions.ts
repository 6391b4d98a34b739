import { type Address, overlap } from '@kinkajou/core/edits/touches';
import { KinkajouError } from '@kinkajou/core/errors';
import { and, asc, eq, gt, isNull, sql } from 'drizzle-orm';
import { db, type Transaction } from '../db/client.ts';
import { assetChanges, assets, stamps } from '../db/schema.ts';
import { publish } from '../events.ts';

/**
 * A change of an asset, by whom, and what it touches; one of its files or of what is known of them touches
 * nothing.
 */
export interface Change {
  text: string;
  touches?: Address[];
  /** The page that asked for it. */
  author?: string;
}

/** Moves an asset's revision within a transaction and remembers why. Returns the new one. */
export async function moveRevision(
  tx: Transaction,
  assetId: string,
  { text, touches = [], author = '' }: Change,
): Promise<number> {
  const [{ revision }] = await tx
    .update(assets)
    .set({ revision: sql`${assets.revision} + 1` })
    .where(eq(assets.id, assetId))
    .returning({ revision: assets.revision });
  await tx.insert(assetChanges).values({ assetId, revision, author, text, touches });
  return revision;
}

/** Moves the revision of every asset of a parcel, since its files or what is known of them changed. */
export async function touchParcel(parcelId: string, text: string): Promise<void> {
  const rows = await db().select({ id: assets.id }).from(assets).where(eq(assets.parcelId, parcelId));
  for (const { id } of rows) await touchAsset(id, text);
}

/** Moves an asset's revision, with the words for whoever saw an older one, and tells open pages. */
export async function touchAsset(id: string, text: string): Promise<void> {
  const revision = await db().transaction((tx) => moveRevision(tx, id, { text }));
  await publish({ topic: 'asset', id, revision });
}

/**
 * Throws `conflict`, with what was done, where a change since a revision touches the same; without addresses,
 * where any was made.
 */
export async function checkUnmoved(
  tx: Transaction,
  assetId: string,
  seen: number,
  touches: readonly Address[] | null,
): Promise<void> {
  const since = await tx
    .select()
    .from(assetChanges)
    .where(and(eq(assetChanges.assetId, assetId), gt(assetChanges.revision, seen)))
    .orderBy(asc(assetChanges.revision));
  const clash = since.find(
    (change) => change.touches.length > 0 && (touches === null || overlap(change.touches, touches)),
  );
  if (!clash) return;
  throw new KinkajouError(
    'conflict',
    `meanwhile another page did this: ${clash.text}`,
    {},
    'The page shows it now; if your change is still right, make it again.',
  );
}

/** Everything that was known of other parcels, folders, words and answers may be different now. */
export async function moveKnowledge(): Promise<void> {
  await db()
    .insert(stamps)
    .values({ name: KNOWLEDGE, value: 1 })
    .onConflictDoUpdate({ target: stamps.name, set: { value: sql`${stamps.value} + 1` } });
}

const KNOWLEDGE = 'knowledge';

/** Names all that an asset's findings depend on; null where there is no such asset. */
export async function versionOf(assetId: string): Promise<string | null> {
  const stamp = sql<number>`coalesce((select value from ${stamps} where name = ${KNOWLEDGE}), 0)`;
  const there = and(eq(assets.id, assetId), isNull(assets.removedAt));
  const [row] = await db().select({ revision: assets.revision, stamp }).from(assets).where(there);
  return row ? `${row.revision}.${row.stamp}` : null;
}

/** The revision that a version names. */
export function revisionOf(version: string): number {
  return Number(version.split('.')[0]);
}
