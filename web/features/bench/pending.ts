import type { Edit } from '@kinkajou/core/asset/asset';
import { type CursorMove, moveCursor } from '@kinkajou/core/edits/acts';
import { create } from 'zustand';
import { applyBenchDelta, type BenchAnswer, type BenchData } from '@/server/wire/bench';

/** What a page has asked for and shows already, though the server has not said yes. */
export type PendingChange = { edits: Edit[] } | { move: CursorMove } | { answer: true };

/** Changes on their way, by asset, in the order in which they are sent. */
export const usePending = create<Record<string, readonly PendingChange[]>>()(() => ({}));

const NONE: readonly PendingChange[] = [];

/** Changes of an asset that are on their way, the first made first. */
export function pendingOf(id: string): readonly PendingChange[] {
  return usePending.getState()[id] ?? NONE;
}

/** Notes a change that is on its way. */
export function addPending(id: string, change: PendingChange): void {
  usePending.setState((all) => ({ [id]: [...(all[id] ?? []), change] }));
}

/** Forgets a change that came through or was refused. */
export function removePending(id: string, change: PendingChange): void {
  usePending.setState((all) => ({ [id]: (all[id] ?? []).filter((other) => other !== change) }));
}

/**
 * The data as they will be when everything that is on its way has arrived. What follows from pixels stays as
 * it was.
 */
export function withPending(data: BenchData, changes: readonly PendingChange[]): BenchData {
  return changes.reduce(withChange, data);
}

function withChange(data: BenchData, change: PendingChange): BenchData {
  const { log, cursor } = data;
  if ('move' in change) return { ...data, cursor: moveCursor(log, cursor, change.move) };
  if ('answer' in change) return data;
  const added = change.edits.map((edit, i) => ({
    seq: cursor + i + 1,
    act: cursor + 1,
    edit,
    at: new Date().toISOString(),
    author: '',
  }));
  return {
    ...data,
    log: [...log.filter(({ seq }) => seq <= cursor), ...added],
    cursor: cursor + added.length,
  };
}

/**
 * An answer to edits also says where they came into the log, and which undone ones they took the place of.
 */
export type ChangeAnswer = BenchAnswer & { dropped?: Edit[]; seq?: number };

/**
 * The data after an answer of the server; null where the answer tells what changed since another version than
 * this. Edits that were sent along are not sent back.
 */
export function received(
  before: BenchData | undefined,
  answer: ChangeAnswer,
  sent: readonly Edit[] = [],
): BenchData | null {
  if ('whole' in answer) return before && before.revision > answer.whole.revision ? before : answer.whole;
  const { delta, seq = 0 } = answer;
  if (!before || before.version !== delta.from) return null;
  const { log } = delta.lists;
  const put = log?.put.map(({ index, item }) => ({
    index,
    item: item.edit ? item : { ...item, edit: sent[item.seq - seq] },
  }));
  return applyBenchDelta(
    before,
    log && put ? { ...delta, lists: { ...delta.lists, log: { ...log, put } } } : delta,
  );
}
