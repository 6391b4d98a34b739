import type { Edit } from '@kinkajou/core/asset/asset';
import { actInWords, type CursorMove, moveCursor as movedCursor } from '@kinkajou/core/edits/acts';
import { describeEdit } from '@kinkajou/core/edits/log';
import { touchesOf } from '@kinkajou/core/edits/touches';
import { KinkajouError } from '@kinkajou/core/errors';
import { and, asc, eq, gt, isNull } from 'drizzle-orm';
import { db, type Transaction } from '../db/client.ts';
import { assets, edits } from '../db/schema.ts';
import { publish } from '../events.ts';
import { notFound } from '../respond.ts';
import { findAsset } from './assetRow.ts';
import { currentState } from './assetState.ts';
import { copyIntoParcel } from './further.ts';
import { rememberIntake } from './intake.ts';
import { checkUnmoved, moveRevision } from './revisions.ts';
import { laterTally } from './tally.ts';
import { requestThumbnail } from './thumbnails.ts';

/** Who asks for a change, and what they have seen. */
export interface Asker {
  /** The page; '' for jobs and scripts. */
  author?: string;
  /** The revision that they saw; without it nothing is compared. */
  seen?: number;
  /**
   * The job or request that adds edits; what it added to the asset before its worker ended, or its answer was
   * lost, is not added again.
   */
  job?: string;
}

/** What adding edits did to the log. */
export interface Added {
  /** Place of the first edit in the log. */
  seq: number;
  /** Edits that had been undone and that the new ones took the place of. */
  dropped: Edit[];
}

/**
 * Adds the edits of one act after the cursor. Where the asset has moved on since the asker saw it, they are
 * added on top if they touch other things. Throws `conflict` otherwise.
 */
export async function addEdits(
  assetId: string,
  added: Edit[],
  { author = '', seen, job }: Asker = {},
): Promise<Added> {
  if (added.length === 0) throw new KinkajouError('edit.none', 'there is nothing to change');
  await copyIntoParcel((await findAsset(assetId)).parcelId, added);
  const texts = added.map(describeEdit);
  let result: Added = { seq: 0, dropped: [] };
  const change = { text: actInWords(texts), touches: added.flatMap(touchesOf), author };
  await changeLog(assetId, async (tx, cursor) => {
    const [before] = job
      ? await tx
          .select({ id: edits.id })
          .from(edits)
          .where(and(eq(edits.job, job), eq(edits.assetId, assetId)))
      : [];
    if (before) return null;
    if (seen !== undefined) await checkUnmoved(tx, assetId, seen, change.touches);
    const dropped = await tx
      .delete(edits)
      .where(and(eq(edits.assetId, assetId), gt(edits.seq, cursor)))
      .returning();
    result = { seq: cursor + 1, dropped: dropped.sort((a, b) => a.seq - b.seq).map(({ edit }) => edit) };
    await tx.insert(edits).values(
      added.map((edit, i) => ({
        assetId,
        seq: cursor + i + 1,
        act: cursor + 1,
        edit,
        text: texts[i],
        job,
        author,
      })),
    );
    return { cursor: cursor + added.length, change };
  });
  for (const edit of added) if (edit.kind === 'setIntake') await rememberIntake(assetId, edit.choice);
  return result;
}

/**
 * Moves the cursor along the log, over whole acts: to 0 undoes everything, to the log's length redoes
 * everything; to an edit within an act goes to the act's end. Throws `conflict` where the asset has moved on
 * since the asker saw it, and where one step would undo what another page did.
 */
export async function moveCursor(
  assetId: string,
  move: CursorMove,
  { author = '', seen }: Asker = {},
): Promise<void> {
  await changeLog(assetId, async (tx, cursor) => {
    if (seen !== undefined) await checkUnmoved(tx, assetId, seen, null);
    const rows = await tx.select().from(edits).where(eq(edits.assetId, assetId)).orderBy(asc(edits.seq));
    const next = movedCursor(rows, cursor, move);
    const back = 'by' in move ? move.by < 0 : move.to < cursor;
    if (next === cursor)
      throw new KinkajouError('edit.none', back ? 'there is nothing to undo' : 'there is nothing to redo');
    const act = rows[next < cursor ? next : next - 1].act;
    const own = rows.filter((row) => row.act === act);
    const text = actInWords(own.map((row) => row.text));
    if ('by' in move && back) checkOwn(own[0].author, author, text);
    const passed = rows.filter(({ seq }) => seq > Math.min(next, cursor) && seq <= Math.max(next, cursor));
    const change = {
      text: next < cursor ? `Undone: ${text}` : `Redone: ${text}`,
      touches: passed.flatMap(({ edit }) => touchesOf(edit)),
      author,
    };
    return { cursor: next, change };
  });
}

function checkOwn(author: string, asker: string, text: string): void {
  if (author === '' || asker === '' || author === asker) return;
  throw new KinkajouError(
    'conflict',
    `the last change is another page's: ${text}`,
    {},
    'To undo it all the same, go back in the edit log.',
  );
}

interface LogChange {
  cursor: number;
  change: { text: string; touches: string[]; author: string };
}

/**
 * Changes the log while no other request does, and tells pages, shelf and worker. Work that returns null
 * changed nothing.
 */
async function changeLog(
  assetId: string,
  work: (tx: Transaction, cursor: number) => Promise<LogChange | null>,
): Promise<void> {
  const changed = await db().transaction(async (tx) => {
    const [row] = await tx
      .select({ cursor: assets.cursor })
      .from(assets)
      .where(and(eq(assets.id, assetId), isNull(assets.removedAt)))
      .for('update');
    if (!row) throw notFound('asset');
    const result = await work(tx, row.cursor);
    if (!result) return null;
    const { cursor, change } = result;
    const revision = await moveRevision(tx, assetId, change);
    await tx
      .update(assets)
      .set({ cursor, lastEdit: change.text, updatedAt: new Date() })
      .where(eq(assets.id, assetId));
    return revision;
  });
  if (changed === null) return;
  const { findings } = await currentState(assetId);
  await db().update(assets).set(laterTally(findings)).where(eq(assets.id, assetId));
  await requestThumbnail(assetId);
  await publish({ topic: 'asset', id: assetId, revision: changed });
}
