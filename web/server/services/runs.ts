import { placeMaterial } from '@kinkajou/core/asset/canonical';
import { describeEdit } from '@kinkajou/core/edits/log';
import { KinkajouError } from '@kinkajou/core/errors';
import { runChecks } from '@kinkajou/core/findings/checks';
import { createContext } from '@kinkajou/core/findings/context';
import type { Knowledge } from '@kinkajou/core/findings/knowledge';
import { applyRules, type BroughtMaterial, leftOf, type RuledAsset, type RuledParts } from '@kinkajou/core/rules/applyRules';
import { parseRulebook } from '@kinkajou/core/rules/parseRulebook';
import type { Rulebook } from '@kinkajou/core/rules/rulebook';
import { and, desc, eq, inArray, sql } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { edits, handoffs, jobs, parcels, shelfMaterials } from '../db/schema.ts';
import type { JobData } from '../jobs/kinds.ts';
import { enqueue, JOB_FIELDS } from '../jobs/queue.ts';
import { faultOf, type JobRun } from '../jobs/runJob.ts';
import { notFound } from '../respond.ts';
import { findAsset } from './assetRow.ts';
import { type CurrentState, currentState } from './assetState.ts';
import { destinationById } from './destinations.ts';
import { addEdits, moveCursor } from './edits.ts';
import { requestHandoffs } from './handoffs.ts';
import { knowledgeFor } from './knowledge.ts';
import { lookAtImages } from './lookAtImages.ts';
import { bringImages } from './materials.ts';
import { allAssetIds } from './shelf.ts';

/** What rules did to one asset, or would do. */
export interface RunOutcome {
  id: string;
  name: string;
  /** Each edit in words, with the rule that made it. */
  edits: { text: string; rule: string }[];
  /** What a rule asks, and what needs a person and no rule settles. */
  left: { code: string; subject: string; rule: string | null }[];
  /** New images that mends of rules want; they are made on the bench. */
  makes: number;
  handOffs: string[];
  /** Why this asset could not be done. */
  fault: string | null;
}

export interface RunResult {
  outcomes: RunOutcome[];
  /** Assets that were brought back to what they were, and those that had moved on. */
  undone: { assets: number; kept: string[] } | null;
}

/** Has a rulebook tried on assets, or applied to them; null stands for the whole shelf. Returns the job's id. */
export async function requestRun(input: unknown, assets: string[] | null, apply: boolean): Promise<string> {
  return enqueue('apply-rules', { books: [parseRulebook(input)], assets, apply });
}

/** The job: each asset gets edits of its own, as one act. Begun anew it leaves alone what it did already. */
export async function applyRulebook(run: JobRun<'apply-rules'>): Promise<RunResult> {
  const { id: job, data, progress } = run;
  const { books, assets, apply, arrived } = data;
  // Rules may ask what images hold, which nobody has looked at yet.
  if (arrived !== undefined) await lookAtImages({ ...run, data: { parcelId: arrived } });
  const outcomes: RunOutcome[] = [];
  const ids = assets ?? (await allAssetIds());
  for (const [i, id] of ids.entries()) {
    const asset = await findAsset(id).catch(() => null);
    // One that went while others were done has nothing to be ruled.
    if (!asset) continue;
    const { name } = asset;
    progress(i / ids.length, `${apply ? 'applying rules to' : 'trying rules on'} ${name}`);
    try {
      outcomes.push(await ruleOne(id, books, apply ? job : null));
    } catch (error) {
      // What is no fault of the asset ends the run, which goes on where it stopped.
      if (!(error instanceof KinkajouError)) throw error;
      outcomes.push({ id, name, edits: [], left: [], makes: 0, handOffs: [], fault: faultOf(error).message });
    }
  }
  return { outcomes, undone: null };
}

async function ruleOne(id: string, books: readonly Rulebook[], job: string | null): Promise<RunOutcome> {
  const current = await currentState(id);
  const { asset, log } = current;
  // What this very run did before its worker ended is no edit of a person's: the rules are told what was there without it.
  const before = log.filter((row) => row.seq <= asset.cursor && (job === null || row.job !== job)).map(({ edit }) => edit);
  const knowledge = await knowledgeFor(current.images);
  const ruled = await rule(current, books, { before, knowledge, bring: job !== null });
  const fresh = ruled.edits.slice(before.length);
  // A destination that is not there is found before anything is changed.
  for (const to of ruled.handOffs) await destinationById(to);
  if (job) {
    if (fresh.length > 0) await addEdits(id, fresh, { job });
    for (const to of await notYetHandedOff(id, ruled.handOffs, job)) await requestHandoffs(id, [{ destination: to, choices: {} }]);
  }
  return {
    id,
    name: asset.name,
    edits: fresh.map((edit) => ({ text: describeEdit(edit), rule: edit.origin.rule?.rule ?? '' })),
    left: leftAfter(current, ruled, knowledge),
    makes: ruled.makes.length,
    handOffs: ruled.handOffs,
    fault: null,
  };
}

/** Destinations that no package was asked for since the run was. */
async function notYetHandedOff(assetId: string, destinations: readonly string[], job: string): Promise<string[]> {
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
  const [parcel] = await db().select({ name: parcels.name }).from(parcels).where(eq(parcels.id, asset.parcelId));
  const materialFor = async (name: string): Promise<BroughtMaterial> => {
    const [row] = await db().select().from(shelfMaterials).where(eq(shelfMaterials.name, name));
    if (!row) throw new KinkajouError('rule.material', `there is no material "${name}" on the shelf`, {}, 'Keep one under that name first.');
    const place = bring ? await bringImages(asset.parcelId, row.kept, images) : (image: string) => image;
    return { material: placeMaterial(row.kept, place), files: new Map() };
  };
  // Rules need what is known of an asset and its images, and neither geometry nor files.
  const known: RuledParts = { source: asset.source, images: [...images, ...further], read: () => Promise.reject(notFound('file')) };
  return applyRules(known, books, { parcel: parcel?.name ?? '', knowledge, before, materialFor });
}

function leftAfter({ asset, images, further }: CurrentState, { state, settled, asked }: RuledAsset<RuledParts>, knowledge: Knowledge): RunOutcome['left'] {
  const context = createContext(asset.source, state, [...images, ...further], knowledge);
  return leftOf(runChecks(context), settled, asked);
}

export interface RunEntry {
  id: string;
  title: string;
  state: (typeof jobs.$inferSelect)['state'];
  progress: number;
  doing: string;
  fault: (typeof jobs.$inferSelect)['fault'];
  result: RunResult | null;
  createdAt: string;
}

/** Runs that changed something, the latest first. */
export async function listRuns(): Promise<RunEntry[]> {
  const rows = await db()
    .select({ ...JOB_FIELDS, id: jobs.id, data: jobs.data, result: jobs.result, createdAt: jobs.createdAt })
    .from(jobs)
    .where(and(eq(jobs.kind, 'apply-rules'), sql`${jobs.data}->>'apply' = 'true'`))
    .orderBy(desc(jobs.createdAt))
    .limit(50);
  return rows.map(({ data, result, createdAt, finishedAt: _, ...row }) => ({
    ...row,
    title: (data as JobData['apply-rules']).books.map((book) => book.title).join(', '),
    result: result as RunResult | null,
    createdAt: createdAt.toISOString(),
  }));
}

/** Undoes a run as a whole: each asset that nothing was done to since goes back to what it was. The others are named. */
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
  for (const { id: assetId, name } of result.outcomes) {
    const own = made.filter((edit) => edit.assetId === assetId).map(({ seq }) => seq);
    if (own.length === 0) continue;
    const asset = await findAsset(assetId).catch(() => null);
    if (asset?.cursor === Math.max(...own)) {
      await moveCursor(assetId, { to: Math.min(...own) - 1 });
      count += 1;
    } else kept.push(name);
  }
  const undone: RunResult = { ...result, undone: { assets: count, kept } };
  await db().update(jobs).set({ result: undone }).where(eq(jobs.id, id));
  return undone;
}
