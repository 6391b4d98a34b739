import type { Edit } from '@kinkajou/core/asset/asset';
import { describeEdit } from '@kinkajou/core/edits/log';
import { KinkajouError } from '@kinkajou/core/errors';
import { and, asc, eq, gt } from 'drizzle-orm';
import { db, type Transaction } from '../db/client.ts';
import { assets, edits } from '../db/schema.ts';
import { notFound } from '../respond.ts';
import { type BenchView, benchView, findAsset, refreshSummary } from './assets.ts';
import { actInWords } from './acts.ts';
import { takeIn } from './further.ts';
import { rememberIntake } from './intake.ts';

export interface AddOptions {
  /** The job that adds them; what it added before its worker ended is not added again. */
  job?: string;
}

/** Adds the edits of one act after the cursor; edits that were undone and not redone are dropped, as everywhere. */
export async function addEdits(assetId: string, added: Edit[], { job }: AddOptions = {}): Promise<BenchView> {
  if (added.length === 0) throw new KinkajouError('edit.none', 'there is nothing to change');
  await takeIn((await findAsset(assetId)).parcelId, added);
  await withLock(assetId, async (tx, cursor) => {
    const [before] = job ? await tx.select({ id: edits.id }).from(edits).where(eq(edits.job, job)) : [];
    if (before) return cursor;
    await tx.delete(edits).where(and(eq(edits.assetId, assetId), gt(edits.seq, cursor)));
    await tx.insert(edits).values(added.map((edit, i) => ({ assetId, seq: cursor + i + 1, act: cursor + 1, edit, text: describeEdit(edit), job })));
    return cursor + added.length;
  });
  for (const edit of added) if (edit.kind === 'setIntake') await rememberIntake(assetId, edit.choice);
  return benchView(assetId, await refreshSummary(assetId, actInWords(added.map(describeEdit))));
}

/**
 * Moves the cursor along the log, over whole acts: to 0 undoes everything, to the log's length redoes everything; to an
 * edit within an act goes to the act's end.
 */
export async function moveCursor(assetId: string, move: { by: number } | { to: number }): Promise<BenchView> {
  let last = '';
  await withLock(assetId, async (tx, cursor) => {
    const rows = await tx.select().from(edits).where(eq(edits.assetId, assetId)).orderBy(asc(edits.seq));
    const ends = actEnds(rows);
    const wanted = 'by' in move ? stepTo(ends, cursor, move.by) : (ends.find((end) => end >= move.to) ?? rows.length);
    const next = Math.min(rows.length, Math.max(0, wanted));
    const back = 'by' in move ? move.by < 0 : move.to < cursor;
    if (next === cursor) throw new KinkajouError('edit.none', back ? 'there is nothing to undo' : 'there is nothing to redo');
    const act = rows[next < cursor ? next : next - 1].act;
    const text = actInWords(rows.filter((row) => row.act === act).map((row) => row.text));
    last = next < cursor ? `Undone: ${text}` : `Redone: ${text}`;
    return next;
  });
  return benchView(assetId, await refreshSummary(assetId, last));
}

/** Numbers of the last edit of each act, and 0 before all. */
function actEnds(rows: readonly { seq: number; act: number }[]): number[] {
  return [0, ...rows.flatMap((row, i) => (rows[i + 1]?.act === row.act ? [] : [row.seq]))];
}

function stepTo(ends: readonly number[], cursor: number, by: number): number {
  const at = ends.findLastIndex((end) => end <= cursor);
  // Within an act one step back leads to its beginning.
  const inside = ends[at] !== cursor && by < 0 ? 1 : 0;
  return ends[Math.min(ends.length - 1, Math.max(0, at + by + inside))];
}

/** Runs work on the log while no other request changes it; the work returns the new cursor. */
async function withLock(assetId: string, work: (tx: Transaction, cursor: number) => Promise<number>): Promise<void> {
  await db().transaction(async (tx) => {
    const [row] = await tx.select({ cursor: assets.cursor }).from(assets).where(eq(assets.id, assetId)).for('update');
    if (!row) throw notFound('asset');
    await tx
      .update(assets)
      .set({ cursor: await work(tx, row.cursor) })
      .where(eq(assets.id, assetId));
  });
}
