import { and, eq, isNull } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { assets } from '../db/schema.ts';
import { enqueue } from '../jobs/queue.ts';
import type { JobRun } from '../jobs/runJob.ts';
import { readWhatCame } from './exported.ts';
import { listRulebooks } from './rulebooks.ts';

/** Reads what arrived, and has the rules of the house applied to it. Assets that bring edits along are left as they were sent. */
export async function readArrival(run: JobRun<'read-parcel'>): Promise<void> {
  await readWhatCame(run);
  const { parcelId } = run.data;
  const books = (await listRulebooks()).filter(({ onArrival }) => onArrival);
  if (books.length === 0) return;
  const fresh = await db()
    .select({ id: assets.id })
    .from(assets)
    .where(and(eq(assets.parcelId, parcelId), eq(assets.cursor, 0), isNull(assets.removedAt)));
  if (fresh.length === 0) return;
  // One job for all, so that each book sees what the one before it did.
  const data = { books: books.map(({ book }) => book), assets: fresh.map(({ id }) => id), apply: true, arrived: parcelId };
  await enqueue('apply-rules', data, { key: parcelId });
}
