import type { ParcelImage } from '@kinkajou/core/asset/asset';
import type { Knowledge } from '@kinkajou/core/findings/knowledge';
import { houseWord, parseHouseWords } from '@kinkajou/core/maps/houseWords';
import type { HouseWords } from '@kinkajou/core/maps/nameSpans';
import type { ChannelName } from '@kinkajou/core/scene/material';
import type { SetAnswer } from '@kinkajou/core/sets/answers';
import { asc, desc, eq, sql } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { houseWords, setAnswers } from '../db/schema.ts';
import { factsFor } from './imageFacts.ts';
import { moveKnowledge } from './revisions.ts';

/** The latest answers count; older ones are kept for the list in Settings. */
const MOST_ANSWERS = 5000;

/** All that is known beside an asset: what pixels say, words of the house, earlier answers. */
export async function knowledgeFor(images: readonly ParcelImage[]): Promise<Knowledge> {
  const [facts, house, answers] = await Promise.all([
    factsFor(images),
    readHouse(),
    db()
      .select({ answer: setAnswers.answer })
      .from(setAnswers)
      .orderBy(desc(setAnswers.id))
      .limit(MOST_ANSWERS),
  ]);
  return { facts, house, answers: answers.map(({ answer }) => answer) };
}

async function readHouse(): Promise<HouseWords> {
  const rows = await db().select().from(houseWords);
  return Object.fromEntries(rows.map(({ word, channel }) => [word, channel]));
}

/** A word of the house and the channel that it means. */
export interface HouseWord {
  word: string;
  channel: ChannelName;
}

/** Words of the house, by the alphabet. */
export async function listWords(): Promise<HouseWord[]> {
  return db()
    .select({ word: houseWords.word, channel: houseWords.channel })
    .from(houseWords)
    .orderBy(asc(houseWords.word));
}

/** Adds a word or changes what it means. Throws `words.invalid` for one that no name could hold. */
export async function saveWord(word: string, channel: ChannelName): Promise<HouseWord[]> {
  const [plain] = Object.keys(parseHouseWords({ [word]: channel }));
  await db()
    .insert(houseWords)
    .values({ word: plain, channel })
    .onConflictDoUpdate({ target: houseWords.word, set: { channel } });
  await moveKnowledge();
  return listWords();
}

/** Forgets a word; resolves to those that are left. */
export async function removeWord(word: string): Promise<HouseWord[]> {
  await db()
    .delete(houseWords)
    .where(eq(houseWords.word, houseWord(word)));
  await moveKnowledge();
  return listWords();
}

/** An answer that settles the same question elsewhere. */
export interface KeptAnswer {
  id: number;
  answer: SetAnswer;
  asset: string;
  createdAt: string;
}

/** The latest five hundred answers. */
export async function listAnswers(): Promise<KeptAnswer[]> {
  const rows = await db().select().from(setAnswers).orderBy(desc(setAnswers.id)).limit(500);
  return rows.map(({ id, answer, asset, createdAt }) => ({
    id,
    answer,
    asset,
    createdAt: createdAt.toISOString(),
  }));
}

/** Forgets one answer, or all of them. */
export async function forgetAnswers(id: number | null): Promise<KeptAnswer[]> {
  await db()
    .delete(setAnswers)
    .where(id === null ? sql`true` : eq(setAnswers.id, id));
  await moveKnowledge();
  return listAnswers();
}
