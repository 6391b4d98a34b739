import { type AssetState, type Edit, initialState, type ParcelImage } from '@kinkajou/core/asset/asset';
import type { FactsByHash } from '@kinkajou/core/asset/collectFacts';
import { describeEdit, replay } from '@kinkajou/core/edits/log';
import { findFindings, runChecks } from '@kinkajou/core/findings/checks';
import { createContext } from '@kinkajou/core/findings/context';
import type { Finding } from '@kinkajou/core/findings/finding';
import type { FindingContext } from '@kinkajou/core/findings/findingContext';
import { asc, eq } from 'drizzle-orm';
import { LRUCache } from 'lru-cache';
import { db } from '../db/client.ts';
import { edits } from '../db/schema.ts';
import { notFound } from '../respond.ts';
import { type AssetRow, assetImages, findAsset } from './assetRow.ts';
import { furtherImages } from './further.ts';
import { knowledgeFor } from './knowledge.ts';
import { versionOf } from './revisions.ts';

/** An asset as it stands at its revision, worked out once and kept. */
export interface CurrentState {
  version: string;
  asset: AssetRow;
  images: ParcelImage[];
  further: ParcelImage[];
  facts: FactsByHash;
  context: FindingContext;
  log: EditRow[];
  applied: Edit[];
  state: AssetState;
  findings: Finding[];
  /** Findings of the untouched source that are gone now. */
  mended: number;
  skipped: string[];
}

type EditRow = typeof edits.$inferSelect;

/** The asset with its edits applied, and no more: for what asks often and has no use for findings. */
export async function replayedAsset(id: string) {
  const asset = await findAsset(id);
  const images = await assetImages(asset);
  const log = await db().select().from(edits).where(eq(edits.assetId, id)).orderBy(asc(edits.seq));
  const applied = log.filter((row) => row.seq <= asset.cursor).map((row) => row.edit);
  return { asset, images, log, applied, ...replay(asset.source, applied, images) };
}

/** States by asset, each of one version; bounded by their size as JSON, roughly. */
const MOST_BYTES = 200e6;
const holder = globalThis as unknown as { kinkajouStates?: LRUCache<string, CurrentState> };
holder.kinkajouStates ??= new LRUCache({
  maxSize: MOST_BYTES,
  sizeCalculation: ({ asset, images, findings, log }) =>
    20_000 + 3 * sizeOf([asset.source, images, findings, log]),
});
const states = holder.kinkajouStates;
/** Those that are being made, so that many who ask at once wait for one. */
const making = new Map<string, Promise<CurrentState>>();

function sizeOf(parts: readonly unknown[]): number {
  return parts.reduce((sum: number, part) => sum + JSON.stringify(part).length, 0);
}

/** The asset with its edits applied, and what is still wrong with it; made once for each version. */
export async function currentState(id: string): Promise<CurrentState> {
  const version = await versionOf(id);
  if (version === null) throw notFound('asset');
  const existing = states.get(id);
  if (existing?.version === version) return existing;
  const key = `${id} ${version}`;
  const waiting = making.get(key);
  if (waiting) return waiting;
  const made = makeState(id, version).finally(() => making.delete(key));
  making.set(key, made);
  const state = await made;
  // What changed while it was made makes the next who asks make it again.
  states.set(id, state);
  return state;
}

async function makeState(id: string, version: string): Promise<CurrentState> {
  const { asset, images, log, applied, state, skipped } = await replayedAsset(id);
  const [further, knowledge] = await Promise.all([furtherImages(asset, state, images), knowledgeFor(images)]);
  const { facts } = knowledge;
  const context = createContext(asset.source, state, [...images, ...further], knowledge);
  const findings = runChecks(context);
  const open = new Set(findings.map((finding) => finding.key));
  return {
    version,
    asset,
    images,
    further,
    facts,
    log,
    applied,
    state,
    context,
    findings,
    mended: firstFindings(asset, images, facts).filter((key) => !open.has(key)).length,
    skipped: skipped.map(({ edit, what }) => `${describeEdit(applied[edit])}: ${what} is not there`),
  };
}

/**
 * Keys of what was wrong before any edit; they change only with the files and with what is known of their
 * pixels.
 */
const firstKeys = new LRUCache<string, { version: string; keys: string[] }>({ max: 500 });

function firstFindings(asset: AssetRow, images: readonly ParcelImage[], facts: FactsByHash): string[] {
  const version = `${asset.parcelId} ${asset.model} ${images.length} ${facts.size}`;
  const existing = firstKeys.get(asset.id);
  if (existing?.version === version) return existing.keys;
  const keys = findFindings(asset.source, initialState(asset.source), images, { facts }).map(
    (finding) => finding.key,
  );
  firstKeys.set(asset.id, { version, keys });
  return keys;
}
