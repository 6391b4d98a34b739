import { isDeepStrictEqual } from 'node:util';
import type { Edit } from '@kinkajou/core/asset/asset';
import { KinkajouError } from '@kinkajou/core/errors';
import { joinRulebooks, rulesFrom, surroundingsOf, unruledInWords } from '@kinkajou/core/rules/fromEdits';
import { parseRulebook } from '@kinkajou/core/rules/parseRulebook';
import type { Rulebook } from '@kinkajou/core/rules/rulebook';
import { and, asc, desc, eq, inArray, isNull, notInArray, sql } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { arrivalFolders, assets, edits, parcels, rulebookStates, rulebooks } from '../db/schema.ts';
import { notFound } from '../respond.ts';
import { assetImages, findAsset } from './assetRow.ts';
import { replayedAsset } from './assetState.ts';
import { findRun } from './runs.ts';

/** A rulebook as it is kept. */
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
export async function saveRulebook(
  input: unknown,
  id: string | null,
): Promise<{ id: string; rulebooks: RulebookEntry[] }> {
  const book = parseRulebook(input);
  if (id !== null) {
    await changeRulebook(id, book);
    return { id, rulebooks: await listRulebooks() };
  }
  const [row] = await db().insert(rulebooks).values({ book }).returning();
  return { id: row.id, rulebooks: await listRulebooks() };
}

/** Most states that are kept of one rulebook. */
const MOST_STATES = 200;

async function changeRulebook(id: string, book: Rulebook): Promise<void> {
  await db().transaction(async (tx) => {
    const [row] = await tx.select().from(rulebooks).where(eq(rulebooks.id, id)).for('update');
    if (!row) throw notFound('rulebook');
    if (isDeepStrictEqual(row.book, book)) return;
    await tx.update(rulebooks).set({ book, updatedAt: new Date() }).where(eq(rulebooks.id, id));
    await tx.insert(rulebookStates).values({ rulebookId: id, book: row.book });
    const kept = tx
      .select({ id: rulebookStates.id })
      .from(rulebookStates)
      .where(eq(rulebookStates.rulebookId, id))
      .orderBy(desc(rulebookStates.id))
      .limit(MOST_STATES);
    await tx
      .delete(rulebookStates)
      .where(and(eq(rulebookStates.rulebookId, id), notInArray(rulebookStates.id, kept)));
  });
}

/** What a rulebook said before, and where it is used. */
export interface RulebookPast {
  /** What it said before, the latest first, with when it gave way to the next. */
  states: { id: number; book: Rulebook; until: string }[];
  /** Parcels in which it changed something, and in how many assets. */
  parcels: { id: string; name: string; assets: number }[];
  /** Folders of arrivals that apply it. */
  folders: string[];
}

/** What a rulebook said earlier, and where it is in use; edits name it by its title, as it was then. */
export async function rulebookPast(id: string): Promise<RulebookPast> {
  const [row] = await db().select().from(rulebooks).where(eq(rulebooks.id, id));
  if (!row) throw notFound('rulebook');
  const states = await db()
    .select()
    .from(rulebookStates)
    .where(eq(rulebookStates.rulebookId, id))
    .orderBy(desc(rulebookStates.id));
  const titles = [...new Set([row.book, ...states.map(({ book }) => book)].map(({ title }) => title))];
  const [used, folders] = await Promise.all([
    db()
      .select({ id: parcels.id, name: parcels.name, assets: sql<number>`count(distinct ${assets.id})::int` })
      .from(edits)
      .innerJoin(assets, eq(assets.id, edits.assetId))
      .innerJoin(parcels, eq(parcels.id, assets.parcelId))
      .where(
        and(
          isNull(assets.removedAt),
          sql`${edits.seq} <= ${assets.cursor}`,
          inArray(sql`${edits.edit}->'origin'->'rule'->>'rulebook'`, titles),
        ),
      )
      .groupBy(parcels.id)
      .orderBy(desc(parcels.createdAt))
      .limit(MOST_PARCELS),
    db()
      .select({ path: arrivalFolders.path })
      .from(arrivalFolders)
      .where(sql`jsonb_exists(${arrivalFolders.rules}, ${id})`)
      .orderBy(asc(arrivalFolders.path)),
  ]);
  return {
    states: states.map((state) => ({ id: state.id, book: state.book, until: state.createdAt.toISOString() })),
    parcels: used,
    folders: folders.map(({ path }) => path),
  };
}

const MOST_PARCELS = 100;

/** Rules made of edits. */
export interface LearntRules {
  id: string;
  /** What of the edits no rule would do again, in sentences. */
  without: string[];
}

/**
 * A rulebook of some edits of an asset, by their places in its log: names in them become patterns. Throws
 * `rules.none` where no rule would do them again.
 */
export async function learnRules(assetId: string, places: readonly number[]): Promise<LearntRules> {
  const { asset, images, log } = await replayedAsset(assetId);
  const chosen = log.filter(({ seq }) => places.includes(seq)).map(({ edit }) => edit);
  return keepLearnt(asset.name, [rulesFrom(chosen, asset.name, surroundingsOf(asset.source, images))]);
}

/**
 * A rulebook of what a run settled in all its assets, but for what rules did. Throws `rules.none` as above.
 */
export async function learnFromRun(job: string): Promise<LearntRules> {
  const { title } = await findRun(job);
  const rows = await db()
    .select({ assetId: edits.assetId, edit: edits.edit })
    .from(edits)
    .where(eq(edits.job, job))
    .orderBy(asc(edits.assetId), asc(edits.seq));
  const byAsset = new Map<string, Edit[]>();
  for (const { assetId, edit } of rows)
    if (!edit.origin.rule) byAsset.set(assetId, [...(byAsset.get(assetId) ?? []), edit]);
  const learnt: LearntPart[] = [];
  for (const [id, chosen] of byAsset) {
    // One that was taken off the shelf since has nothing more to say.
    const asset = await findAsset(id).catch(() => null);
    if (asset)
      learnt.push(rulesFrom(chosen, asset.name, surroundingsOf(asset.source, await assetImages(asset))));
  }
  return keepLearnt(title, learnt);
}

type LearntPart = ReturnType<typeof rulesFrom>;

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
  return { id, without: unruledInWords(parts.flatMap(({ without }) => without)) };
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
