import { KinkajouError } from '@kinkajou/core/errors';
import { BUILT_IN_RULEBOOKS } from '@kinkajou/core/rules/builtIn';
import type { Rulebook } from '@kinkajou/core/rules/rulebook';
import { and, asc, eq, inArray, isNull } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { assets, handoffs, jobs, parcels } from '../db/schema.ts';
import type { ArrivalOrders } from '../jobs/kinds.ts';
import { enqueue } from '../jobs/queue.ts';
import type { JobRun } from '../jobs/runJob.ts';
import { destinationById } from './destinations.ts';
import { readWhatCame } from './exported.ts';
import { findParcel } from './parcelFiles.ts';
import { addParcelFile, closeParcel, createParcel } from './parcels.ts';
import { listRulebooks } from './rulebooks.ts';

/**
 * Reads what arrived, and has the rules of the house and what its sender asked for applied to it. Assets that
 * bring edits along are left as they were sent.
 */
export async function readArrival(run: JobRun<'read-parcel'>): Promise<void> {
  await readWhatCame(run);
  const { parcelId } = run.data;
  const { arrival } = await findParcel(parcelId);
  const house = (await listRulebooks()).filter(({ onArrival }) => onArrival).map(({ book }) => book);
  const { books = [], destinations = [], mend = false } = arrival ?? {};
  const all = [...house, ...books];
  if (all.length === 0 && destinations.length === 0 && !mend) return;
  const fresh = await db()
    .select({ id: assets.id })
    .from(assets)
    .where(and(eq(assets.parcelId, parcelId), eq(assets.cursor, 0), isNull(assets.removedAt)));
  if (fresh.length === 0) return;
  // One job for all, so that each book sees what the one before it did.
  const asked = { ...(mend ? { mend } : {}), ...(destinations.length > 0 ? { destinations } : {}) };
  const data = { books: all, assets: fresh.map(({ id }) => id), apply: true, arrived: parcelId, ...asked };
  await enqueue('apply-rules', data, { key: parcelId });
}

/** How a script names what is to be done. */
export interface ArrivalRequest {
  name: string;
  rules?: string;
  to?: string;
  mend?: 'safe';
}

/** Takes a file in as a parcel of its own, and what is to be done to it. Returns the parcel's id. */
export async function takeArrival(
  { name, rules = '', to = '', mend }: ArrivalRequest,
  body: NodeJS.ReadableStream,
): Promise<string> {
  const orders = await ordersOf({ rules: listed(rules), destinations: listed(to), mend: mend === 'safe' });
  return takeFiles(name.replace(/\.zip$/i, ''), orders, [{ path: name, modified: null, open: () => body }]);
}

/** What is to be done, with what its words stand for. Throws where one stands for nothing. */
export async function ordersOf({
  rules,
  destinations,
  mend,
}: {
  rules: string[];
  destinations: string[];
  mend: boolean;
}): Promise<ArrivalOrders> {
  for (const id of destinations) await destinationById(id);
  return { books: await Promise.all(rules.map(rulebookBy)), destinations, mend };
}

/** A file of an arrival, to be read once. */
export interface ArrivingFile {
  path: string;
  modified: Date | null;
  open(): NodeJS.ReadableStream;
}

/** Takes files in as one parcel, which is read by a worker. Returns its id. */
export async function takeFiles(
  name: string,
  arrival: ArrivalOrders,
  files: readonly ArrivingFile[],
): Promise<string> {
  const parcelId = await createParcel(name);
  await db().update(parcels).set({ arrival }).where(eq(parcels.id, parcelId));
  try {
    for (const { path, modified, open } of files) await addParcelFile(parcelId, path, modified, open());
  } catch (error) {
    // Nobody comes back to a parcel that could not be filled.
    await db().delete(parcels).where(eq(parcels.id, parcelId));
    throw error;
  }
  await closeParcel(parcelId);
  return parcelId;
}

function listed(words: string): string[] {
  return words
    .split(',')
    .map((word) => word.trim())
    .filter(Boolean);
}

async function rulebookBy(word: string): Promise<Rulebook> {
  if (Object.hasOwn(BUILT_IN_RULEBOOKS, word)) return BUILT_IN_RULEBOOKS[word];
  const found = (await listRulebooks()).find(({ id, book }) => id === word || book.title === word);
  if (!found)
    throw new KinkajouError(
      'rulebook.none',
      `there is no rulebook "${word}"`,
      {},
      `Name one of the house, or one of ${Object.keys(BUILT_IN_RULEBOOKS).join(', ')}.`,
    );
  return found.book;
}

/** How an arrival stands: `done` once nothing of it waits or runs any more. */
export interface ArrivalReport {
  id: string;
  name: string;
  state: 'reading' | 'working' | 'done' | 'failed';
  /** What could not be taken. */
  faults: { code: string; message: string; hint: string; file: string }[];
  assets: {
    id: string;
    name: string;
    model: string;
    findings: { error: number; warning: number; note: number };
    /** What needs a person: kinds of findings that ask. */
    asks: string[];
    packages: { id: string; destination: string; state: string; verdict: string | null; url: string }[];
  }[];
}

/** What became of a parcel that a script sent; throws `notFound`. */
export async function arrivalReport(id: string): Promise<ArrivalReport> {
  const { name, state, faults } = await findParcel(id);
  const there = await db()
    .select()
    .from(assets)
    .where(and(eq(assets.parcelId, id), isNull(assets.removedAt)))
    .orderBy(asc(assets.model));
  const made =
    there.length === 0
      ? []
      : await db()
          .select({
            id: handoffs.id,
            assetId: handoffs.assetId,
            destination: handoffs.destination,
            receipt: handoffs.receipt,
            state: jobs.state,
          })
          .from(handoffs)
          .innerJoin(jobs, eq(jobs.id, handoffs.id))
          .where(
            inArray(
              handoffs.assetId,
              there.map((asset) => asset.id),
            ),
          )
          .orderBy(asc(handoffs.createdAt));
  const [ruling] = await db()
    .select({ id: jobs.id })
    .from(jobs)
    .where(and(eq(jobs.kind, 'apply-rules'), eq(jobs.key, id), inArray(jobs.state, ['queued', 'running'])));
  const busy = ruling !== undefined || made.some((one) => one.state === 'queued' || one.state === 'running');
  return {
    id,
    name,
    state: arrivalState(state, busy),
    faults,
    assets: there.map((asset) => ({
      id: asset.id,
      name: asset.name,
      model: asset.model,
      findings: asset.severities,
      asks: [...new Set(asset.doubts.map(({ code }) => code))].sort(),
      packages: made
        .filter(({ assetId }) => assetId === asset.id)
        .map(({ id: own, destination, receipt, state: how }) => ({
          id: own,
          destination,
          state: how,
          verdict: receipt?.verdict ?? null,
          url: `/api/handoffs/${own}/package`,
        })),
    })),
  };
}

function arrivalState(state: string, busy: boolean): 'reading' | 'failed' | 'done' | 'working' {
  if (state === 'failed') return 'failed';
  if (state !== 'ready') return 'reading';
  return busy ? 'working' : 'done';
}
