import { KinkajouError } from '@kinkajou/core/errors';
import { rulesFrom } from '@kinkajou/core/rules/fromEdits';
import { parseRulebook } from '@kinkajou/core/rules/parseRulebook';
import type { Rulebook } from '@kinkajou/core/rules/rulebook';
import { asc, eq, sql } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { rulebooks } from '../db/schema.ts';
import { notFound } from '../respond.ts';
import { replayedAsset } from './assetState.ts';

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
  const { rulebook, without } = rulesFrom(chosen, `From ${asset.name}`, {
    writtenOf: (image) => asset.source.images.find(({ key }) => key === image)?.written ?? image,
  });
  if (rulebook.rules.length === 0)
    throw new KinkajouError(
      'rules.none',
      'these edits speak of one asset alone; no rule would do them again',
      {},
      'Choose edits of names, slots, tags or parts.',
    );
  const { id } = await saveRulebook(rulebook, null);
  return { id, without: without.length };
}

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
