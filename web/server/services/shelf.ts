import type { AssetSource } from '@kinkajou/core/asset/asset';
import { countSeverities } from '@kinkajou/core/findings/checks';
import { and, asc, count, desc, eq, ilike, isNotNull, isNull, or, type SQL, sql } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { assets, parcels } from '../db/schema.ts';
import type { AssetRow } from './assetRow.ts';
import { currentState } from './assetState.ts';

/** An asset as a row of the shelf. */
export interface ShelfEntry {
  id: string;
  parcelId: string;
  parcelName: string;
  name: string;
  model: string;
  format: AssetSource['format'];
  variant: string;
  counts: AssetSource['counts'];
  bounds: AssetSource['bounds'];
  severities: AssetRow['severities'];
  thumbnail: string | null;
  lastEdit: string;
  updatedAt: string;
}

export const SHELF_SORTS = ['changed', 'name', 'findings', 'polygons'] as const;
export type ShelfSort = (typeof SHELF_SORTS)[number];

/** Which assets of the shelf; each word of the search must be in the name, the parcel's, the model's or the format. */
export interface ShelfQuery {
  search?: string;
  sort?: ShelfSort;
  /** Assets of one parcel alone. */
  parcel?: string;
  /** Those that were taken off the shelf and can be brought back, instead of those on it. */
  removed?: boolean;
  offset?: number;
  limit?: number;
}

export interface ShelfPage {
  assets: ShelfEntry[];
  /** How many fit, on all pages. */
  total: number;
}

const severity = (name: string) => sql`coalesce((${assets.severities}->>'${sql.raw(name)}')::int, 0)`;
const ORDERS: Record<ShelfSort, SQL[]> = {
  changed: [desc(assets.updatedAt)],
  name: [sql`${assets.name} collate "kinkajou_numeric"`],
  findings: [desc(severity('error')), desc(severity('warning')), desc(severity('note'))],
  polygons: [desc(sql`coalesce((${assets.counts}->>'polygons')::bigint, 0)`)],
};

/** One page of the shelf, narrow columns only. */
export async function shelfPage({ search = '', sort = 'changed', parcel, removed = false, offset = 0, limit = 10_000 }: ShelfQuery = {}): Promise<ShelfPage> {
  const there = removed ? isNotNull(assets.removedAt) : isNull(assets.removedAt);
  const where = and(there, parcel === undefined ? undefined : eq(assets.parcelId, parcel), ...search.split(/\s+/).filter(Boolean).map(hasWord));
  const from = db().select(COLUMNS).from(assets).innerJoin(parcels, eq(parcels.id, assets.parcelId)).where(where);
  const [rows, [{ total }]] = await Promise.all([
    from
      .orderBy(...ORDERS[sort], asc(assets.id))
      .limit(limit)
      .offset(offset),
    db().select({ total: count() }).from(assets).innerJoin(parcels, eq(parcels.id, assets.parcelId)).where(where),
  ]);
  return { assets: rows.map((row) => ({ ...row, updatedAt: row.updatedAt.toISOString() })), total };
}

const COLUMNS = {
  id: assets.id,
  parcelId: assets.parcelId,
  parcelName: parcels.name,
  name: assets.name,
  model: assets.model,
  format: assets.format,
  variant: assets.variant,
  counts: assets.counts,
  bounds: assets.bounds,
  severities: assets.severities,
  thumbnail: assets.thumbnail,
  lastEdit: assets.lastEdit,
  updatedAt: assets.updatedAt,
};

function hasWord(word: string): SQL | undefined {
  const like = `%${word.replaceAll(/[\\%_]/g, (letter) => `\\${letter}`)}%`;
  return or(...[assets.name, parcels.name, assets.model, assets.format].map((column) => ilike(column, like)));
}

/** Ids of all assets on the shelf, the last changed first. */
export async function allAssetIds(): Promise<string[]> {
  const rows = await db().select({ id: assets.id }).from(assets).where(isNull(assets.removedAt)).orderBy(desc(assets.updatedAt));
  return rows.map(({ id }) => id);
}

/** Brings the shelf's tally of an asset's findings up to date. */
export async function refreshSeverities(id: string): Promise<void> {
  const { findings } = await currentState(id);
  await db()
    .update(assets)
    .set({ severities: countSeverities(findings) })
    .where(eq(assets.id, id));
}
