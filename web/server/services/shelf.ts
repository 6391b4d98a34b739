import type { AssetSource } from '@kinkajou/core/asset/asset';
import { and, asc, count, desc, eq, ilike, isNotNull, isNull, or, type SQL, sql } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { assets, handoffs, parcels } from '../db/schema.ts';
import type { ShelfFacets, ShelfFilter, ShelfState } from '../wire/shelf.ts';
import type { AssetRow } from './assetRow.ts';
import { currentState } from './assetState.ts';
import { laterTally } from './tally.ts';

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
  /** It stands for all assets of its parcel. */
  stack: Stack | null;
}

/** Many assets that came in one parcel, folded into one entry: how many, and what is open in all of them. */
export interface Stack extends Pick<AssetRow, 'severities'> {
  size: number;
}

/** What the shelf can be sorted by. */
export const SHELF_SORTS = ['changed', 'name', 'findings', 'polygons'] as const;
/** One of {@link SHELF_SORTS}. */
export type ShelfSort = (typeof SHELF_SORTS)[number];

/** Which assets of the shelf, and which page of them. */
export interface ShelfQuery extends ShelfFilter {
  sort?: ShelfSort;
  /** Those that were taken off the shelf and can be brought back, instead of those on it. */
  removed?: boolean;
  /** Parcels of many assets as one entry each. */
  fold?: boolean;
  offset?: number;
  limit?: number;
}

/** A page of the shelf. */
export interface ShelfPage {
  assets: ShelfEntry[];
  /** How many entries fit, on all pages, and how many assets they stand for. */
  total: number;
  whole: number;
}

const severity = (name: string) => sql`coalesce((${assets.severities}->>'${sql.raw(name)}')::int, 0)`;
const ORDERS: Record<ShelfSort, SQL[]> = {
  changed: [desc(assets.updatedAt)],
  name: [sql`${assets.name} collate "kinkajou_numeric"`],
  findings: [desc(severity('error')), desc(severity('warning')), desc(severity('note'))],
  polygons: [desc(sql`coalesce((${assets.counts}->>'polygons')::bigint, 0)`)],
};

/** A parcel of more assets than this is one stack. */
const STACK_ABOVE = 6;

/** Parcels of many assets, each with the one that was changed last as its cover. */
function stacksOf() {
  const sum = (name: string) => sql<number>`sum(${severity(name)})::int`;
  return db()
    .select({
      parcelId: sql<string>`${assets.parcelId}`.as('stack_parcel'),
      size: sql<number>`count(*)::int`.as('stack_size'),
      cover: sql<string>`(array_agg(${assets.id} order by ${assets.updatedAt} desc, ${assets.id}))[1]`.as(
        'stack_cover',
      ),
      error: sum('error').as('stack_error'),
      warning: sum('warning').as('stack_warning'),
      note: sum('note').as('stack_note'),
    })
    .from(assets)
    .where(isNull(assets.removedAt))
    .groupBy(assets.parcelId)
    .having(sql`count(*) > ${STACK_ABOVE}`)
    .as('stacks');
}

/** One page of the shelf, narrow columns only. */
export async function shelfPage({
  sort = 'changed',
  removed = false,
  fold = false,
  offset = 0,
  limit = 10_000,
  ...filter
}: ShelfQuery = {}): Promise<ShelfPage> {
  const where = whereOf(filter, removed);
  const stacks = stacksOf();
  const folded = fold && !removed;
  const shown = folded ? and(where, or(isNull(stacks.cover), eq(stacks.cover, assets.id))) : where;
  const stack = { size: stacks.size, error: stacks.error, warning: stacks.warning, note: stacks.note };
  const page = db()
    .select(folded ? { ...COLUMNS, stack } : { ...COLUMNS, stack: sql<null>`null` })
    .from(assets)
    .innerJoin(parcels, eq(parcels.id, assets.parcelId))
    .$dynamic();
  const counted = () =>
    db()
      .select({ count: count() })
      .from(assets)
      .innerJoin(parcels, eq(parcels.id, assets.parcelId))
      .$dynamic();
  const entries = folded
    ? counted().leftJoin(stacks, eq(stacks.parcelId, assets.parcelId)).where(shown)
    : null;
  if (folded) page.leftJoin(stacks, eq(stacks.parcelId, assets.parcelId));
  const [rows, [{ count: whole }], found] = await Promise.all([
    page
      .where(shown)
      .orderBy(...ORDERS[sort], asc(assets.id))
      .limit(limit)
      .offset(offset),
    counted().where(where),
    entries,
  ]);
  return {
    assets: rows.map((row) => ({
      ...row,
      stack: stackOf(row.stack),
      updatedAt: row.updatedAt.toISOString(),
    })),
    total: found?.[0].count ?? whole,
    whole,
  };
}

function stackOf(
  row: { size: number | null; error: number | null; warning: number | null; note: number | null } | null,
): Stack | null {
  return row?.size
    ? {
        size: row.size,
        severities: { error: row.error ?? 0, warning: row.warning ?? 0, note: row.note ?? 0 },
      }
    : null;
}

/** Ids of all assets that the filters find, by name. */
export async function shelfIds(filter: ShelfFilter): Promise<string[]> {
  const rows = await db()
    .select({ id: assets.id })
    .from(assets)
    .innerJoin(parcels, eq(parcels.id, assets.parcelId))
    .where(whereOf(filter, false))
    .orderBy(...ORDERS.name, asc(assets.id));
  return rows.map(({ id }) => id);
}

const LONGEST = sql`greatest((${assets.bounds}->'max'->>0)::float8 - (${assets.bounds}->'min'->>0)::float8, (${assets.bounds}->'max'->>1)::float8 - (${assets.bounds}->'min'->>1)::float8, (${assets.bounds}->'max'->>2)::float8 - (${assets.bounds}->'min'->>2)::float8)`;
const STATES: Record<ShelfState, SQL> = {
  broken: sql`${severity('error')} > 0`,
  doubtful: sql`${severity('error')} = 0 and ${severity('warning')} > 0`,
  clean: sql`${severity('error')} + ${severity('warning')} + ${severity('note')} = 0`,
};

function whereOf(
  { search = '', state, code, mended, format, generator, parcel, handed, longer, shorter }: ShelfFilter,
  removed: boolean,
): SQL | undefined {
  const package_ = sql`exists (select 1 from ${handoffs} where ${handoffs.assetId} = ${assets.id})`;
  return and(
    removed ? isNotNull(assets.removedAt) : isNull(assets.removedAt),
    state && STATES[state],
    code === undefined ? undefined : sql`jsonb_exists(${assets.open}, ${code})`,
    mended === undefined
      ? undefined
      : sql`jsonb_exists(${assets.found}, ${mended}) and not jsonb_exists(${assets.open}, ${mended})`,
    format && eq(assets.format, format),
    generator === undefined ? undefined : eq(assets.generator, generator),
    parcel === undefined ? undefined : eq(assets.parcelId, parcel),
    handedCondition(handed, package_),
    longer === undefined ? undefined : sql`${LONGEST} > ${longer}`,
    shorter === undefined ? undefined : sql`${LONGEST} < ${shorter}`,
    ...search.split(/\s+/).filter(Boolean).map(hasWord),
  );
}

function handedCondition(handed: boolean | undefined, package_: SQL<unknown>) {
  if (handed === undefined) return undefined;
  return handed ? package_ : sql`not ${package_}`;
}

/** Values that the filters can have; of programs and parcels the most frequent ones. */
export async function shelfFacets(): Promise<ShelfFacets> {
  const there = isNull(assets.removedAt);
  const [formats, generators, byCode, inParcels] = await Promise.all([
    db()
      .select({ value: assets.format, count: count() })
      .from(assets)
      .where(there)
      .groupBy(assets.format)
      .orderBy(desc(count())),
    db()
      .select({ value: assets.generator, count: count() })
      .from(assets)
      .where(there)
      .groupBy(assets.generator)
      .orderBy(desc(count()))
      .limit(MOST_FACETS),
    db().execute<{ value: string; title: string; count: string }>(
      sql`select key as value, mode() within group (order by value) as title, count(*) as count from ${assets}, jsonb_each_text(${assets.open}) where ${there} group by key order by count(*) desc, key`,
    ),
    db()
      .select({ value: parcels.id, title: parcels.name, count: count() })
      .from(assets)
      .innerJoin(parcels, eq(parcels.id, assets.parcelId))
      .where(there)
      .groupBy(parcels.id)
      .orderBy(desc(parcels.createdAt))
      .limit(MOST_FACETS),
  ]);
  const codes = byCode.rows.map(({ value, title, count: assetsWith }) => ({
    value,
    title,
    count: Number(assetsWith),
  }));
  return { formats, generators, codes, parcels: inParcels };
}

const MOST_FACETS = 100;

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
  const rows = await db()
    .select({ id: assets.id })
    .from(assets)
    .where(isNull(assets.removedAt))
    .orderBy(desc(assets.updatedAt));
  return rows.map(({ id }) => id);
}

/** Brings the shelf's tally of an asset's findings up to date. */
export async function refreshSeverities(id: string): Promise<void> {
  const { findings } = await currentState(id);
  await db().update(assets).set(laterTally(findings)).where(eq(assets.id, id));
}

/**
 * Brings the tallies of assets up to date that were there before findings were kept by kind. Returns how many
 * there were.
 */
export async function tallyOldAssets(): Promise<number> {
  const anything = sql`${severity('error')} + ${severity('warning')} + ${severity('note')} > 0`;
  const old = await db()
    .select({ id: assets.id })
    .from(assets)
    .where(and(isNull(assets.removedAt), sql`${assets.found} = '{}'::jsonb`, anything));
  for (const { id } of old) await refreshSeverities(id);
  return old.length;
}
