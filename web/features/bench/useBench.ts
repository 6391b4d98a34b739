'use client';

import type { Edit } from '@kinkajou/core/asset/asset';
import type { MakeRequest } from '@kinkajou/core/asset/makeMaps';
import { type CursorMove, moveCursor } from '@kinkajou/core/edits/acts';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { createContext, useContext, useEffect, useMemo } from 'react';
import { toast } from 'sonner';
import { type BenchData, type BenchView, viewOf } from '@/server/wire/bench';
import { ApiError, api, isOffline } from '@/ui/api';
import { plural } from '@/ui/format';
import { useDeriveMaps } from '../surface/useDerivedMaps.ts';
import { benchKey, catchUp, fetchBench } from './benchQuery.ts';
import {
  addPending,
  type ChangeAnswer,
  type PendingChange,
  pendingOf,
  received,
  removePending,
  usePending,
  withPending,
} from './pending.ts';

export type { BenchView };

/** The asset with all that was done to it here, whether the server has it yet or not. */
export function useBenchQuery(id: string) {
  const client = useQueryClient();
  const query = useQuery({ queryKey: benchKey(id), queryFn: () => fetchBench(client, id) });
  const pending = usePending((all) => all[id]);
  const { data } = query;
  const view = useMemo(() => data && viewOf(withPending(data, pending ?? [])), [data, pending]);
  return { view, error: query.error };
}

/** The bench as its parts use it. */
export interface Bench {
  view: BenchView;
  /** Something that was done here is on its way. */
  busy: boolean;
  canUndo: boolean;
  canRedo: boolean;
  /** Records edits; they show at once. */
  apply(edits: Edit[]): void;
  /** Answers a question; all that follows from it is applied. */
  answer(finding: string, choice: string, remember: boolean): void;
  /** Makes new images in a job that puts them to use when it is done. */
  make(request: MakeRequest): void;
  undo(): void;
  redo(): void;
  /** Goes to a place in the log: as many edits applied as given. */
  jump(to: number): void;
}

type Call = { change: PendingChange } & (
  | { path: 'edits'; body: { edits: Edit[]; request: string } }
  | { path: 'answers'; body: { finding: string; choice: string; remember: boolean } }
  | { path: 'cursor'; body: CursorMove }
);

const RETRY_MS = 2000;

/**
 * Actions on one asset. They show at once and are sent one after the other, each with the version that the
 * page has by then.
 */
export function useBenchActions(id: string, view: BenchView | undefined): Bench | null {
  const client = useQueryClient();
  const dataNow = () => client.getQueryData<BenchData>(benchKey(id));
  const mutation = useMutation({
    scope: { id: `asset-${id}` },
    mutationFn: ({ path, body }: Call) =>
      api<ChangeAnswer>(`/api/assets/${id}/${path}`, {
        method: 'POST',
        body: { ...body, version: dataNow()?.version },
      }),
    // What did not get through waits here until it does; the others wait behind it.
    retry: (_, error) => isOffline(error),
    retryDelay: RETRY_MS,
    onSuccess: async (answer, { path, body, change }) => {
      const next = received(dataNow(), answer, path === 'edits' ? body.edits : []);
      // Until the page knows what came of it, what was done counts: an undo is undone from where it led.
      const fresh = next ?? (await fetchBench(client, id).catch(() => null));
      removePending(id, change);
      if (fresh)
        client.setQueryData<BenchData>(benchKey(id), (before) =>
          before && before.revision > fresh.revision ? before : fresh,
        );
      else await client.invalidateQueries({ queryKey: benchKey(id), exact: true });
      if (answer.dropped && answer.dropped.length > 0) tellDropped(answer.dropped);
    },
    onError: (error, { change }) => {
      removePending(id, change);
      toast.error(error.message);
      if (error instanceof ApiError && error.code === 'conflict')
        void client.invalidateQueries({ queryKey: benchKey(id), exact: true });
    },
    onSettled: () => {
      if (pendingOf(id).length === 0) catchUp(client, id);
    },
  });
  useEffect(() => {
    const warn = (event: BeforeUnloadEvent) => {
      if (pendingOf(id).length > 0) event.preventDefault();
    };
    window.addEventListener('beforeunload', warn);
    return () => window.removeEventListener('beforeunload', warn);
  }, [id]);
  const making = useDeriveMaps(id);
  if (!view) return null;
  const start = (call: Call) => {
    addPending(id, call.change);
    mutation.mutate(call);
  };
  const apply = (edits: Edit[]) =>
    edits.length > 0 &&
    start({ path: 'edits', body: { edits, request: crypto.randomUUID() }, change: { edits } });
  const move = (by: CursorMove) => {
    const data = dataNow();
    if (!data) return;
    const { log, cursor } = withPending(data, pendingOf(id));
    if (moveCursor(log, cursor, by) !== cursor) start({ path: 'cursor', body: by, change: { move: by } });
  };
  function tellDropped(dropped: Edit[]) {
    toast(`${plural(dropped.length, 'undone edit')} made room for this one.`, {
      action: { label: 'Bring back', onClick: () => apply(dropped) },
    });
  }
  return {
    view,
    busy: mutation.isPending,
    canUndo: view.log.some((entry) => !entry.undone),
    canRedo: view.log.some((entry) => entry.undone),
    apply,
    answer: (finding, choice, remember) =>
      start({ path: 'answers', body: { finding, choice, remember }, change: { answer: true } }),
    make: (request) => making.mutate(request),
    undo: () => move({ by: -1 }),
    redo: () => move({ by: 1 }),
    jump: (to) => move({ to }),
  };
}

const BenchContext = createContext<Bench | null>(null);
/** Gives the bench to its parts. */
export const BenchProvider = BenchContext.Provider;

/** The bench that this part stands on. */
export function useBench(): Bench {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error('this part belongs on the bench');
  return bench;
}
