import type { AssetState, Edit } from '@kinkajou/core/asset/asset';
import { placeMaterial } from '@kinkajou/core/asset/canonical';
import { describeEdit, replay } from '@kinkajou/core/edits/log';
import { KinkajouError } from '@kinkajou/core/errors';
import { runChecks } from '@kinkajou/core/findings/checks';
import { createContext } from '@kinkajou/core/findings/context';
import type { Knowledge } from '@kinkajou/core/findings/knowledge';
import { mendAsset } from '@kinkajou/core/inspect';
import {
  applyRules,
  type BroughtMaterial,
  leftOf,
  type RuledAsset,
  type RuledParts,
} from '@kinkajou/core/rules/applyRules';
import { conflictsIn, type RuleConflict } from '@kinkajou/core/rules/conflicts';
import { parseRulebook } from '@kinkajou/core/rules/parseRulebook';
import type { Rulebook } from '@kinkajou/core/rules/rulebook';
import { and, desc, eq, inArray, sql } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { assets as assetsTable, edits, handoffs, jobs, parcels, shelfMaterials } from '../db/schema.ts';
import type { RunData } from '../jobs/kinds.ts';
import { enqueue, JOB_FIELDS } from '../jobs/queue.ts';
import { faultOf, type JobRun } from '../jobs/runJob.ts';
import { notFound } from '../respond.ts';
import { type ComparedPackage, needsLook } from '../wire/compared.ts';
import type { ShelfFilter } from '../wire/shelf.ts';
import { findAsset } from './assetRow.ts';
import { type CurrentState, currentState } from './assetState.ts';
import { comparePackages } from './comparePackages.ts';
import { destinationById } from './destinations.ts';
import { addEdits, moveCursor } from './edits.ts';
import { furtherImages } from './further.ts';
import { requestHandoffs } from './handoffs.ts';
import { knowledgeFor } from './knowledge.ts';
import { lookAtImages } from './lookAtImages.ts';
import {
  closeForMany,
  closeOpened,
  type DeliveredShare,
  deliverShare,
  openForMany,
  refuseSpent,
  takeShareBack,
} from './manyDeliveries.ts';
import { bringImages } from './materials.ts';
import { bringBack, removeAsset } from './removal.ts';
import { allAssetIds, shelfIds } from './shelf.ts';

/** What rules did to one asset, or would do. */
export interface RunOutcome {
  id: string;
  name: string;
  /** Each edit in words, with the rule that made it. */
  edits: { text: string; rule: string }[];
  /** What a rule asks, and what needs a person and no rule settles. */
  left: { code: string; title: string; subject: string; rule: string | null }[];
  /** New images that mends of rules want; they are made on the bench. */
  makes: number;
  handOffs: string[];
  /** Rules that say otherwise than one before them. */
  conflicts?: RuleConflict[];
  /** What it got of a newer delivery. */
  delivered?: DeliveredShare;
  /** Its last packages, held against it as it is now. */
  compared?: ComparedPackage[];
  /** It was taken off the shelf. */
  removed?: boolean;
  /** Why this asset could not be done. */
  fault: string | null;
}

/** What a run did, asset by asset. */
export interface RunResult {
  outcomes: RunOutcome[];
  /** Assets that were brought back to what they were, and those that had moved on. */
  undone: { assets: number; kept: string[] } | null;
}

/** What is asked of a run: whatever of it is there is done, in this order. */
export interface RunRequest {
  title?: string;
  /** An upload with newer files for several assets, by the id of its parcel; comes before all else. */
  deliver?: string;
  book?: unknown;
  mend?: boolean;
  destinations?: string[];
  compare?: boolean;
  remove?: boolean;
  /** Null for the whole shelf. */
  assets: string[] | null;
  /** Instead of assets by their ids: those that are found now. */
  filter?: ShelfFilter;
  /** Else it is only tried. */
  apply: boolean;
}

/** Has something done to assets, or tried on them. Returns the job's id. */
export async function requestRun({ book, filter, ...asked }: RunRequest): Promise<string> {
  for (const id of asked.destinations ?? []) await destinationById(id);
  const assets = filter ? await shelfIds(filter) : asked.assets;
  if (asked.deliver) await closeForMany(asked.deliver);
  return enqueue('apply-rules', { ...asked, assets, books: book === undefined ? [] : [parseRulebook(book)] });
}

/** The job: each asset gets edits of its own, as one act. Begun anew it leaves alone what it did already. */
export async function applyRulebook(run: JobRun<'apply-rules'>): Promise<RunResult> {
  const { id: job, data, progress } = run;
  const { assets, apply, arrived } = data;
  // Rules may ask what images hold, which nobody has looked at yet.
  if (arrived !== undefined) await lookAtImages({ ...run, data: { parcelId: arrived } });
  const delivery = data.deliver && apply ? await openForMany(data.deliver, progress) : null;
  const outcomes: RunOutcome[] = [];
  const ids = assets ?? (await allAssetIds());
  const keep = () =>
    db()
      .update(jobs)
      .set({ result: { outcomes, undone: null } })
      .where(eq(jobs.id, job));
  let kept = Date.now();
  try {
    for (const [i, id] of ids.entries()) {
      const asset = await findAsset(id).catch(() => null);
      // One that went while others were done has nothing to be ruled; begun anew, a removal tells what it
      // removed.
      if (!asset) {
        const name = data.remove && apply ? await removedSince(id, job) : null;
        if (name !== null)
          outcomes.push({
            id,
            name,
            edits: [],
            left: [],
            makes: 0,
            handOffs: [],
            removed: true,
            fault: null,
          });
        continue;
      }
      const { name } = asset;
      progress(i / ids.length, `${apply ? 'working on' : 'trying it on'} ${name}`);
      try {
        const delivered = delivery && (await deliverShare(id, delivery, job));
        const outcome = await runOne(id, data, apply ? job : null);
        outcomes.push(delivered ? { ...outcome, delivered } : outcome);
      } catch (error) {
        // What is no fault of the asset ends the run, which goes on where it stopped.
        if (!(error instanceof KinkajouError)) throw error;
        outcomes.push({
          id,
          name,
          edits: [],
          left: [],
          makes: 0,
          handOffs: [],
          fault: faultOf(error).message,
        });
      }
      if (Date.now() - kept < KEEP_MS) continue;
      await keep();
      kept = Date.now();
    }
  } catch (error) {
    // Of a run that is stopped, what was done can be looked at and undone.
    await keep();
    throw error;
  }
  if (delivery && data.deliver) await closeOpened(data.deliver);
  return { outcomes, undone: null };
}

/** The name of an asset that was taken off the shelf since a job was asked for; null where it was not. */
async function removedSince(id: string, job: string): Promise<string | null> {
  const since = db().select({ at: jobs.createdAt }).from(jobs).where(eq(jobs.id, job));
  const [row] = await db()
    .select({ name: assetsTable.name })
    .from(assetsTable)
    .where(and(eq(assetsTable.id, id), sql`${assetsTable.removedAt} >= (${since})`));
  return row?.name ?? null;
}

/** How often those who watch a run see how its assets fared. */
const KEEP_MS = 1000;

async function runOne(
  id: string,
  { books, answers = [], mend, destinations = [], compare, remove }: RunData,
  job: string | null,
): Promise<RunOutcome> {
  const current = await currentState(id);
  const { asset, log } = current;
  // What this very run did before its worker ended is no edit of a person's: the rules are told what was
  // there without it.
  const before = log
    .filter((row) => row.seq <= asset.cursor && (job === null || row.job !== job))
    .map(({ edit }) => edit);
  const knowledge = await knowledgeFor(current.images);
  const answered = answersTo(current, answers);
  const ruled = withAnswers(
    await rule(current, books, { before, knowledge, bring: job !== null }),
    current,
    answered,
  );
  const conflicts = conflictsIn(ruled.outcomes);
  const mended = mend ? await mendSafely(current, ruled) : ruled;
  // Begun anew, it tells what it made the first time: what was asked then is asked no more.
  const made = log
    .filter((row) => row.seq <= asset.cursor && job !== null && row.job === job)
    .map(({ edit }) => edit);
  const fresh = made.length > 0 ? made : mended.edits.slice(before.length);
  const handOffs = [...new Set([...ruled.handOffs, ...destinations])];
  // A destination that is not there is found before anything is changed.
  for (const to of handOffs) await destinationById(to);
  if (job) {
    if (made.length === 0 && fresh.length > 0) await addEdits(id, fresh, { job });
    for (const to of await notYetHandedOff(id, handOffs, job))
      await requestHandoffs(id, [{ destination: to, choices: {} }]);
    if (remove) await removeAsset(id);
  }
  return {
    id,
    name: asset.name,
    edits: fresh.map((edit) => ({ text: describeEdit(edit), rule: edit.origin.rule?.rule ?? '' })),
    left: remove ? [] : leftAfter(current, { ...ruled, state: mended.state }, knowledge),
    makes: ruled.makes.length,
    handOffs,
    ...(conflicts.length > 0 ? { conflicts } : {}),
    ...(compare ? { compared: await comparePackages(id) } : {}),
    ...(remove ? { removed: true } : {}),
    fault: null,
  };
}

/** How an asset would stand after rules that are only tried. */
export async function triedState(id: string, books: readonly Rulebook[]): Promise<AssetState> {
  const current = await currentState(id);
  const knowledge = await knowledgeFor(current.images);
  return (await rule(current, books, { before: current.applied, knowledge, bring: false })).state;
}

/**
 * What follows from the answers to an asset's findings. One that asks no more, or never had that choice, is
 * passed over.
 */
function answersTo({ asset, findings }: CurrentState, answers: NonNullable<RunData['answers']>): Edit[] {
  return answers.flatMap((answer) => {
    if (answer.asset !== asset.id) return [];
    const choices = findings.find(({ key }) => key === answer.finding)?.choices ?? [];
    return choices.find(({ id }) => id === answer.choice)?.edits ?? [];
  });
}

function withAnswers(
  ruled: RuledAsset<RuledParts>,
  { asset, images, further }: CurrentState,
  answered: readonly Edit[],
): RuledAsset<RuledParts> {
  if (answered.length === 0) return ruled;
  const all = [...ruled.edits, ...answered];
  return { ...ruled, edits: all, state: replay(asset.source, all, [...images, ...further]).state };
}

const MOST_ROUNDS = 4;

/**
 * All that is safely mended on top of some edits. An image that a mend links from elsewhere may have more to
 * mend.
 */
async function mendSafely(
  { asset, images }: CurrentState,
  ruled: { edits: Edit[]; state: AssetState },
): Promise<{ edits: Edit[]; state: AssetState }> {
  let { edits: all, state } = ruled;
  const byPath = new Map(images.map((image) => [image.path, image]));
  for (let round = 0; round < MOST_ROUNDS; round += 1) {
    for (const image of await furtherImages(asset, state, images)) byPath.set(image.path, image);
    const known = [...byPath.values()];
    const mended = mendAsset(asset.source, known, 'safe', { before: all, ...(await knowledgeFor(known)) });
    if (mended.edits.length === all.length) break;
    ({ edits: all, state } = mended);
  }
  return { edits: all, state };
}

/** Destinations that no package was asked for since the run was. */
async function notYetHandedOff(
  assetId: string,
  destinations: readonly string[],
  job: string,
): Promise<string[]> {
  if (destinations.length === 0) return [];
  const since = db().select({ at: jobs.createdAt }).from(jobs).where(eq(jobs.id, job));
  const asked = await db()
    .select({ destination: handoffs.destination })
    .from(handoffs)
    .where(and(eq(handoffs.assetId, assetId), sql`${handoffs.createdAt} >= (${since})`));
  return destinations.filter((id) => !asked.some(({ destination }) => destination === id));
}

async function rule(
  { asset, images, further }: CurrentState,
  books: readonly Rulebook[],
  { before, knowledge, bring }: { before: CurrentState['applied']; knowledge: Knowledge; bring: boolean },
): Promise<RuledAsset<RuledParts>> {
  const [parcel] = await db()
    .select({ name: parcels.name })
    .from(parcels)
    .where(eq(parcels.id, asset.parcelId));
  const materialFor = async (name: string): Promise<BroughtMaterial> => {
    const [row] = await db().select().from(shelfMaterials).where(eq(shelfMaterials.name, name));
    if (!row)
      throw new KinkajouError(
        'rule.material',
        `there is no material "${name}" on the shelf`,
        {},
        'Keep one under that name first.',
      );
    const place = bring ? await bringImages(asset.parcelId, row.kept, images) : (image: string) => image;
    return { material: placeMaterial(row.kept, place), files: new Map() };
  };
  // Rules need what is known of an asset and its images, and neither geometry nor files.
  const known: RuledParts = {
    source: asset.source,
    images: [...images, ...further],
    read: () => Promise.reject(notFound('file')),
  };
  return applyRules(known, books, { parcel: parcel?.name ?? '', knowledge, before, materialFor });
}

function leftAfter(
  { asset, images, further }: CurrentState,
  { state, settled, asked }: RuledAsset<RuledParts>,
  knowledge: Knowledge,
): RunOutcome['left'] {
  const context = createContext(asset.source, state, [...images, ...further], knowledge);
  const findings = runChecks(context);
  const titles = new Map(findings.map(({ code, title }) => [code, title]));
  return leftOf(findings, settled, asked).map((one) => ({
    ...one,
    title: titles.get(one.code) ?? 'A person chose otherwise',
  }));
}

/** A run in the list. */
export interface RunEntry {
  id: string;
  title: string;
  state: (typeof jobs.$inferSelect)['state'];
  progress: number;
  doing: string;
  fault: (typeof jobs.$inferSelect)['fault'];
  /**
   * Assets that it reached, changed, could not do, has something to ask about, held against their packages,
   * and found another way than these.
   */
  counts: { reached: number; changed: number; failed: number; asks: number; compared: number; apart: number };
  undone: RunResult['undone'];
  createdAt: string;
}

/** A run with how each of its assets fared so far. */
export interface WholeRun extends RunEntry {
  outcomes: RunOutcome[];
}

const RUN_FIELDS = {
  ...JOB_FIELDS,
  id: jobs.id,
  data: jobs.data,
  result: jobs.result,
  createdAt: jobs.createdAt,
};
const isRun = and(eq(jobs.kind, 'apply-rules'), sql`${jobs.data}->>'apply' = 'true'`);

function wholeRun({
  data,
  result,
  createdAt,
  finishedAt: _,
  ...row
}: Pick<typeof jobs.$inferSelect, keyof typeof RUN_FIELDS>): WholeRun {
  const { outcomes, undone } = (result as RunResult | null) ?? { outcomes: [], undone: null };
  const { title, books } = data as RunData;
  return {
    ...row,
    title: title ?? books.map((book) => book.title).join(', '),
    counts: {
      reached: outcomes.length,
      changed: outcomes.filter(didSomething).length,
      failed: outcomes.filter(({ fault }) => fault !== null).length,
      asks: outcomes.filter(({ left }) => left.some(({ rule }) => rule !== null)).length,
      compared: outcomes.filter(({ compared }) => compared !== undefined).length,
      apart: outcomes.filter(({ compared }) => compared !== undefined && needsLook(compared)).length,
    },
    undone,
    createdAt: createdAt.toISOString(),
    outcomes,
  };
}

function didSomething({ edits: made, handOffs, delivered, removed }: RunOutcome): boolean {
  return made.length > 0 || handOffs.length > 0 || Boolean(delivered?.parcel) || removed === true;
}

/** Runs that changed something, the latest first. */
export async function listRuns(): Promise<RunEntry[]> {
  const rows = await db().select(RUN_FIELDS).from(jobs).where(isRun).orderBy(desc(jobs.createdAt)).limit(50);
  return rows.map((row) => {
    const { outcomes: _, ...entry } = wholeRun(row);
    return entry;
  });
}

/** A run with what it did; throws `notFound`. */
export async function findRun(id: string): Promise<WholeRun> {
  const [row] = await db()
    .select(RUN_FIELDS)
    .from(jobs)
    .where(and(eq(jobs.id, id), isRun));
  if (!row) throw notFound('run');
  return wholeRun(row);
}

/**
 * Does again what could not be done, and what a run that was stopped did not come to. Returns the new run's
 * id.
 */
export async function repeatRun(id: string): Promise<string> {
  const { title, outcomes } = await findRun(id);
  const [{ data }] = await db().select({ data: jobs.data }).from(jobs).where(eq(jobs.id, id));
  const run = data as RunData;
  if (run.deliver) await refuseSpent(run.deliver);
  const done = new Set(outcomes.filter(({ fault }) => fault === null).map((outcome) => outcome.id));
  const assets = (run.assets ?? (await allAssetIds())).filter((asset) => !done.has(asset));
  if (assets.length === 0) throw new KinkajouError('run.whole', 'nothing of this run is left to do');
  return enqueue('apply-rules', { ...run, title, assets });
}

/**
 * Undoes a run as a whole: each asset that nothing was done to since goes back to what it was. The others are
 * named.
 */
export async function undoRun(id: string): Promise<RunResult> {
  const [row] = await db()
    .select()
    .from(jobs)
    .where(and(eq(jobs.id, id), eq(jobs.kind, 'apply-rules')));
  const result = row?.result as RunResult | null | undefined;
  if (!row || !result) throw notFound('run');
  if (result.undone) throw new KinkajouError('run.undone', 'this run is undone already');
  const ids = result.outcomes.map((outcome) => outcome.id);
  const made =
    ids.length === 0
      ? []
      : await db()
          .select({ assetId: edits.assetId, seq: edits.seq })
          .from(edits)
          .where(and(eq(edits.job, id), inArray(edits.assetId, ids)));
  let count = 0;
  const kept: string[] = [];
  for (const { id: assetId, name, delivered, removed } of result.outcomes) {
    const broughtBack =
      removed &&
      (await bringBack(assetId).then(
        () => true,
        () => false,
      ));
    const own = made.filter((edit) => edit.assetId === assetId).map(({ seq }) => seq);
    const asset = own.length > 0 ? await findAsset(assetId).catch(() => null) : null;
    const movedOn = own.length > 0 && asset?.cursor !== Math.max(...own);
    if (own.length > 0 && !movedOn) await moveCursor(assetId, { to: Math.min(...own) - 1 });
    // Files go back after the edits that were made on them, and stay where a person went on from there.
    const takenBack = delivered?.parcel && !movedOn ? await takeShareBack(assetId, delivered.parcel) : null;
    if (movedOn || takenBack === false || broughtBack === false) kept.push(name);
    else if (own.length > 0 || takenBack || broughtBack) count += 1;
  }
  const undone: RunResult = { ...result, undone: { assets: count, kept } };
  await db().update(jobs).set({ result: undone }).where(eq(jobs.id, id));
  return undone;
}
