import type { Edit } from '@kinkajou/core/asset/asset';
import { KinkajouError } from '@kinkajou/core/errors';
import { joinRulebooks, rulesFrom } from '@kinkajou/core/rules/fromEdits';
import { parseRulebook } from '@kinkajou/core/rules/parseRulebook';
import type { Rulebook } from '@kinkajou/core/rules/rulebook';
import { asc, eq, sql } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { edits, rulebooks } from '../db/schema.ts';
import { notFound } from '../respond.ts';
import { type AssetRow, findAsset } from './assetRow.ts';
import { replayedAsset } from './assetState.ts';
import { findRun } from './runs.ts';

export interface RulebookEntry {
  id: string;
  book: Rulebook;
  /** Whether it is applied to whatever arrives. */
  onArrival: boolean;
}

/** Rulebooks by title. */
export async function listRulebooks(): Promise<RulebookEntry[]> {
  return db()
    .select({ id: rulebooks.id, book: rulebooks.book, onArrival: rulebooks.onArrival })
    .from(rulebooks)
    .orderBy(asc(sql`lower(${rulebooks.book}->>'title')`), asc(rulebooks.createdAt));
}

/** Keeps a new rulebook, or another state of one. Throws `rulebook.invalid` naming the rule and the field. */
export async function saveRulebook(input: unknown, id: string | null): Promise<{ id: string; rulebooks: RulebookEntry[] }> {
  const book = parseRulebook(input);
  const [row] =
    id === null
      ? await db().insert(rulebooks).values({ book }).returning()
      : await db().update(rulebooks).set({ book, updatedAt: new Date() }).where(eq(rulebooks.id, id)).returning();
  if (!row) throw notFound('rulebook');
  return { id: row.id, rulebooks: await listRulebooks() };
}

export interface LearntRules {
  id: string;
  /** How many of the edits speak of one asset alone, so that no rule would do them again. */
  without: number;
}

/** A rulebook of some edits of an asset, by their places in its log: names in them become patterns. Throws `rules.none` where no rule would do them again. */
export async function learnRules(assetId: string, places: readonly number[]): Promise<LearntRules> {
  const { asset, log } = await replayedAsset(assetId);
  const chosen = log.filter(({ seq }) => places.includes(seq)).map(({ edit }) => edit);
  return keepLearnt(asset.name, [rulesOfEdits(chosen, asset)]);
}

/** A rulebook of what a run settled in all its assets, but for what rules did. Throws `rules.none` as above. */
export async function learnFromRun(job: string): Promise<LearntRules> {
  const { title } = await findRun(job);
  const rows = await db()
    .select({ assetId: edits.assetId, edit: edits.edit })
    .from(edits)
    .where(eq(edits.job, job))
    .orderBy(asc(edits.assetId), asc(edits.seq));
  const byAsset = new Map<string, Edit[]>();
  for (const { assetId, edit } of rows) if (!edit.origin.rule) byAsset.set(assetId, [...(byAsset.get(assetId) ?? []), edit]);
  const learnt: LearntPart[] = [];
  for (const [id, chosen] of byAsset) {
    // One that was taken off the shelf since has nothing more to say.
    const asset = await findAsset(id).catch(() => null);
    if (asset) learnt.push(rulesOfEdits(chosen, asset));
  }
  return keepLearnt(title, learnt);
}

type LearntPart = ReturnType<typeof rulesFrom>;

function rulesOfEdits(chosen: readonly Edit[], { name, source }: Pick<AssetRow, 'name' | 'source'>): LearntPart {
  return rulesFrom(chosen, name, { writtenOf: (image) => source.images.find(({ key }) => key === image)?.written ?? image });
}

async function keepLearnt(from: string, parts: readonly LearntPart[]): Promise<LearntRules> {
  const rulebook = joinRulebooks(
    `From ${from}`.slice(0, MOST_TITLE),
    parts.map((part) => part.rulebook),
  );
  if (rulebook.rules.length === 0)
    throw new KinkajouError(
      'rules.none',
      'these edits speak of one asset alone; no rule would do them again',
      {},
      'Choose edits of names, slots, tags or parts.',
    );
  const { id } = await saveRulebook(rulebook, null);
  return { id, without: parts.reduce((sum, { without }) => sum + without.length, 0) };
}

const MOST_TITLE = 200;

/** Has a rulebook applied to whatever arrives from now on, or no more. */
export async function setOnArrival(id: string, onArrival: boolean): Promise<RulebookEntry[]> {
  const [row] = await db().update(rulebooks).set({ onArrival }).where(eq(rulebooks.id, id)).returning();
  if (!row) throw notFound('rulebook');
  return listRulebooks();
}

/** What runs of it did stays. */
export async function removeRulebook(id: string): Promise<RulebookEntry[]> {
  const [row] = await db().delete(rulebooks).where(eq(rulebooks.id, id)).returning();
  if (!row) throw notFound('rulebook');
  return listRulebooks();
}
