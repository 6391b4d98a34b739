import type { ParcelImage } from '@kinkajou/core/asset/asset';
import { type OpenAsset, openAsset } from '@kinkajou/core/inspect';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { and, eq, isNull } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { assets } from '../db/schema.ts';
import { notFound } from '../respond.ts';
import { parcelImages, parcelSource } from './parcelFiles.ts';

/** An asset as the database has it. */
export type AssetRow = typeof assets.$inferSelect;

/** The row of an asset on the shelf, its source included. */
export async function findAsset(id: string): Promise<AssetRow> {
  const [row] = await db()
    .select()
    .from(assets)
    .where(and(eq(assets.id, id), isNull(assets.removedAt)));
  if (!row) throw notFound('asset');
  return row;
}

/** Images of the asset's parcel and those that its model carries. */
export async function assetImages(asset: AssetRow): Promise<ParcelImage[]> {
  const carried = asset.embedded.map((image) => ({ ...image, modified: null }));
  return [...(await parcelImages(asset.parcelId)), ...carried];
}

/** Opens the asset's model again from the stored files, geometry included. */
export async function reopenAsset(asset: AssetRow): Promise<OpenAsset> {
  return openAsset(
    await parcelSource(asset.parcelId),
    asset.model,
    limitsFromEnvironment(),
    await parcelImages(asset.parcelId),
  );
}
