import { applyBindings } from '@kinkajou/core/asset/applyBindings';
import { type AssetSource, type AssetState, type Edit, initialState, type ParcelImage, type WorkflowChange } from '@kinkajou/core/asset/asset';
import type { FactsByHash } from '@kinkajou/core/asset/collectFacts';
import { describeEdit, replay } from '@kinkajou/core/edits/log';
import { countSeverities, findFindings, runChecks } from '@kinkajou/core/findings/checks';
import { createContext } from '@kinkajou/core/findings/context';
import type { Finding, FindingContext } from '@kinkajou/core/findings/finding';
import { probeImage } from '@kinkajou/core/images/probe';
import { encodePng } from '@kinkajou/core/images/encode';
import { type OpenAsset, openAsset } from '@kinkajou/core/inspect';
import type { Candidate } from '@kinkajou/core/links/rank';
import type { DetectedMap } from '@kinkajou/core/maps/detectMaps';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { drawThumbnail } from '@kinkajou/core/preview/thumbnail';
import type { Suggestion } from '@kinkajou/core/sets/suggest';
import { asc, desc, eq, sql } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { assets, deliveries, edits, parcels, watchedFolders } from '../db/schema.ts';
import { publish } from '../events.ts';
import { enqueue } from '../jobs/queue.ts';
import type { JobRun } from '../jobs/runJob.ts';
import { notFound } from '../respond.ts';
import { listDeliveries } from './deliveries.ts';
import { countLooked } from './facts.ts';
import { furtherImages } from './further.ts';
import { knowledgeFor } from './knowledge.ts';
import { parcelImages, parcelSource, THUMBNAIL } from './parcels.ts';

export type AssetRow = typeof assets.$inferSelect;

/** Seconds for which further edits are waited for before the picture is drawn again. */
const THUMBNAIL_DELAY = 3;

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

/** One line of the edit log. */
export interface LogEntry {
  seq: number;
  /** Number of the first edit of its act. */
  act: number;
  text: string;
  from: string;
  detail: string;
  at: string;
  undone: boolean;
}

/** All that the bench shows of one asset. */
export interface BenchView {
  id: string;
  name: string;
  parcel: { id: string; name: string };
  geometry: string;
  source: Omit<AssetSource, 'materials' | 'images' | 'uvLayouts'>;
  state: AssetState;
  images: ParcelImage[];
  findings: Finding[];
  /** Findings of the untouched source that are gone now. */
  mended: number;
  candidates: Record<string, Candidate[]>;
  /** Images of search folders and other parcels that are among the candidates. */
  further: ParcelImage[];
  /** What each image is, by name, siblings and pixels. */
  detected: DetectedMap[];
  /** Images of sets that are their material's beyond doubt, for slots that are empty. */
  fills: Suggestion[];
  /** Materials whose images are painted for another shading model than theirs. */
  workflows: WorkflowChange[];
  /** Converted copies of other images, by path. */
  sidecars: { path: string; original: string }[];
  /** Images whose pixels were looked at. */
  looked: { done: number; total: number };
  deliveries: Awaited<ReturnType<typeof listDeliveries>>;
  /** The folder whose changes come in by themselves. */
  watched: { path: string; message: string } | null;
  log: LogEntry[];
  /** Parts of edits whose address no longer exists. */
  skipped: string[];
}

export async function listShelf(): Promise<ShelfEntry[]> {
  const rows = await db()
    .select({ asset: assets, parcelName: parcels.name })
    .from(assets)
    .innerJoin(parcels, eq(parcels.id, assets.parcelId))
    .orderBy(desc(assets.updatedAt));
  return rows.map(({ asset, parcelName }) => ({
    id: asset.id,
    parcelId: asset.parcelId,
    parcelName,
    name: asset.name,
    model: asset.model,
    format: asset.source.format,
    variant: asset.source.variant,
    counts: asset.source.counts,
    bounds: asset.source.bounds,
    severities: asset.severities,
    thumbnail: asset.thumbnail,
    lastEdit: asset.lastEdit,
    updatedAt: asset.updatedAt.toISOString(),
  }));
}

export async function findAsset(id: string): Promise<AssetRow> {
  const [row] = await db().select().from(assets).where(eq(assets.id, id));
  if (!row) throw notFound('asset');
  return row;
}

export async function assetImages(asset: AssetRow): Promise<ParcelImage[]> {
  const carried = asset.embedded.map((image) => ({ ...image, modified: null }));
  return [...(await parcelImages(asset.parcelId)), ...carried];
}

export interface CurrentState {
  asset: AssetRow;
  images: ParcelImage[];
  further: ParcelImage[];
  facts: FactsByHash;
  context: FindingContext;
  applied: Edit[];
  state: AssetState;
  findings: Finding[];
  skipped: string[];
}

/** The asset with its edits applied, and no more: for what asks often and has no use for findings. */
export async function replayedAsset(id: string) {
  const asset = await findAsset(id);
  const images = await assetImages(asset);
  const rows = await db().select().from(edits).where(eq(edits.assetId, id)).orderBy(asc(edits.seq));
  const applied = rows.filter((row) => row.seq <= asset.cursor).map((row) => row.edit);
  return { asset, images, applied, ...replay(asset.source, applied, images) };
}

/** The asset with its edits applied, and what is still wrong with it. */
export async function currentState(id: string): Promise<CurrentState> {
  const { asset, images, applied, state, skipped } = await replayedAsset(id);
  const [further, knowledge] = await Promise.all([furtherImages(asset, state, images), knowledgeFor(images)]);
  const { facts } = knowledge;
  const context = createContext(asset.source, state, [...images, ...further], knowledge);
  return {
    asset,
    images,
    further,
    facts,
    applied,
    state,
    context,
    findings: runChecks(context),
    skipped: skipped.map(({ edit, what }) => `${describeEdit(applied[edit])}: ${what} is not there`),
  };
}

/** The bench of an asset; `current` where its state is known already. */
export async function benchView(id: string, current?: CurrentState): Promise<BenchView> {
  const { asset, images, further, facts, state, context, findings, skipped } = current ?? (await currentState(id));
  const [parcel] = await db().select().from(parcels).where(eq(parcels.id, asset.parcelId));
  const log = await db().select().from(edits).where(eq(edits.assetId, id)).orderBy(asc(edits.seq));
  const [watched] = await db().select().from(watchedFolders).where(eq(watchedFolders.assetId, id));
  const before = firstFindings(asset, images, facts);
  const open = new Set(findings.map((finding) => finding.key));
  const candidates = Object.fromEntries(state.images.map((image) => [image.key, [...context.candidatesOf(image)]]));
  const ranked = new Set(Object.values(candidates).flatMap((list) => list.map(({ path }) => path)));
  const { materials: _materials, images: _images, uvLayouts: _layouts, ...source } = asset.source;
  return {
    id,
    name: asset.name,
    parcel: { id: parcel.id, name: parcel.name },
    geometry: asset.geometry,
    source,
    state,
    images,
    findings,
    mended: before.filter((key) => !open.has(key)).length,
    candidates,
    further: further.filter(({ path }) => ranked.has(path)),
    detected: [...context.detected.values()],
    fills: context.settlement().fills,
    workflows: context.settlement().workflows,
    sidecars: [...context.sidecars],
    looked: await countLooked(images, facts),
    deliveries: await listDeliveries(id),
    watched: watched ? { path: watched.path, message: watched.message } : null,
    log: log.map((row) => ({
      seq: row.seq,
      act: row.act,
      text: row.text,
      from: row.edit.origin.from,
      detail: row.edit.origin.detail,
      at: row.createdAt.toISOString(),
      undone: row.seq > asset.cursor,
    })),
    skipped,
  };
}

/** Keys of what was wrong before any edit; they change only with the files and with what is known of their pixels. */
const kept = new Map<string, { version: string; keys: string[] }>();
const KEPT_MOST = 500;

function firstFindings(asset: AssetRow, images: readonly ParcelImage[], facts: FactsByHash): string[] {
  const version = `${asset.parcelId} ${asset.model} ${images.length} ${facts.size}`;
  const known = kept.get(asset.id);
  if (known?.version === version) return known.keys;
  const keys = findFindings(asset.source, initialState(asset.source), images, { facts }).map((finding) => finding.key);
  if (kept.size >= KEPT_MOST) kept.clear();
  kept.set(asset.id, { version, keys });
  return keys;
}

export async function removeAsset(id: string): Promise<void> {
  const asset = await findAsset(id);
  const earlier = await db().select().from(deliveries).where(eq(deliveries.assetId, id));
  await db().delete(assets).where(eq(assets.id, id));
  for (const parcelId of new Set([asset.parcelId, ...earlier.map((row) => row.previousParcelId)])) {
    const [{ left }] = await db().select({ left: sql<number>`count(*)::int` }).from(assets).where(eq(assets.parcelId, parcelId));
    if (left === 0) await db().delete(parcels).where(eq(parcels.id, parcelId));
  }
  await publish({ topic: 'shelf', id });
}

/** Brings the shelf's summary of an asset up to date after an edit, and has its picture drawn again. */
export async function refreshSummary(id: string, lastEdit: string): Promise<CurrentState> {
  const current = await currentState(id);
  const { findings } = current;
  await db()
    .update(assets)
    .set({ severities: countSeverities(findings), lastEdit, updatedAt: new Date() })
    .where(eq(assets.id, id));
  await enqueue('draw-thumbnail', { assetId: id }, { key: id, delaySeconds: THUMBNAIL_DELAY });
  await publish({ topic: 'asset', id });
  return current;
}

/** Opens the asset's model again from the stored files, geometry included. */
export async function reopenAsset(asset: AssetRow): Promise<OpenAsset> {
  return openAsset(await parcelSource(asset.parcelId), asset.model, limitsFromEnvironment(), await parcelImages(asset.parcelId));
}

/** Keeps a picture that a person took as the asset's own; null lets it be drawn again. */
export async function takeThumbnail(id: string, png: Uint8Array | null): Promise<void> {
  await findAsset(id);
  if (png) await probeImage(png, 'picture.png', limitsFromEnvironment());
  await db()
    .update(assets)
    .set(png ? { thumbnail: await blobs.put(png), thumbnailTaken: true } : { thumbnailTaken: false })
    .where(eq(assets.id, id));
  if (!png) await enqueue('draw-thumbnail', { assetId: id });
  await publish({ topic: 'shelf', id });
}

/** The job: draws the asset as its edits make it. */
export async function redrawThumbnail({ data: { assetId: id } }: JobRun<'draw-thumbnail'>): Promise<void> {
  const { asset, state } = await currentState(id);
  if (asset.thumbnailTaken) return;
  const open = await reopenAsset(asset);
  const picture = await drawThumbnail(applyBindings(open.document, state), state, open.read, THUMBNAIL.width, THUMBNAIL.height);
  if (!picture) return;
  await db()
    .update(assets)
    .set({ thumbnail: await blobs.put(await encodePng(picture)) })
    .where(eq(assets.id, id));
  await publish({ topic: 'shelf', id });
}
