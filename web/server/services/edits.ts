import type { Edit } from '@kinkajou/core/asset/asset';
import { describeEdit } from '@kinkajou/core/edits/log';
import { KinkajouError } from '@kinkajou/core/errors';
import { and, asc, eq, gt } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { assets, edits } from '../db/schema.ts';
import { notFound } from '../respond.ts';
import { type BenchView, benchView, findAsset, refreshSummary } from './assets.ts';
import { takeIn } from './further.ts';
import { rememberIntake } from './intake.ts';

type Transaction = Parameters<Parameters<ReturnType<typeof db>['transaction']>[0]>[0];

/** Adds edits after the cursor; edits that were undone and not redone are dropped, as everywhere. */
export async function addEdits(assetId: string, added: Edit[]): Promise<BenchView> {
  if (added.length === 0) throw new KinkajouError('edit.none', 'there is nothing to change');
  await takeIn((await findAsset(assetId)).parcelId, added);
  await withLock(assetId, async (tx, cursor) => {
    await tx.delete(edits).where(and(eq(edits.assetId, assetId), gt(edits.seq, cursor)));
    await tx.insert(edits).values(added.map((edit, i) => ({ assetId, seq: cursor + i + 1, edit, text: describeEdit(edit) })));
    return cursor + added.length;
  });
  for (const edit of added) if (edit.kind === 'setIntake') await rememberIntake(assetId, edit.choice);
  return benchView(assetId, await refreshSummary(assetId, describeEdit(added[added.length - 1])));
}

/** Moves the cursor along the log: to 0 undoes everything, to the log's length redoes everything. */
export async function moveCursor(assetId: string, move: { by: number } | { to: number }): Promise<BenchView> {
  let last = '';
  await withLock(assetId, async (tx, cursor) => {
    const rows = await tx.select().from(edits).where(eq(edits.assetId, assetId)).orderBy(asc(edits.seq));
    const wanted = 'by' in move ? cursor + move.by : move.to;
    const next = Math.min(rows.length, Math.max(0, wanted));
    if (next === cursor) throw new KinkajouError('edit.none', wanted < cursor ? 'there is nothing to undo' : 'there is nothing to redo');
    last = next < cursor ? `Undone: ${rows[next].text}` : `Redone: ${rows[next - 1].text}`;
    return next;
  });
  return benchView(assetId, await refreshSummary(assetId, last));
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
