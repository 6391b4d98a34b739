'use client';

import type { Edit } from '@kinkajou/core/asset/asset';
import type { MakeRequest } from '@kinkajou/core/asset/makeMaps';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { createContext, useContext } from 'react';
import { toast } from 'sonner';
import type { BenchView } from '@/server/services/assets';
import { api } from '@/ui/api';
import { useStartMaking } from '../surface/useMakings.ts';

export type { BenchView };

export function useBenchQuery(id: string) {
  return useQuery({ queryKey: ['asset', id], queryFn: () => api<BenchView>(`/api/assets/${id}`) });
}

export interface Bench {
  view: BenchView;
  busy: boolean;
  canUndo: boolean;
  canRedo: boolean;
  /** Records edits; the answer carries the new state. */
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

type Request =
  | { path: 'edits'; body: { edits: Edit[] } }
  | { path: 'answers'; body: { finding: string; choice: string; remember: boolean } }
  | { path: 'cursor'; body: { by: 1 | -1 } | { to: number } };

/**
 * Actions on one asset. Requests go one after the other, and undo and redo look at the log when their turn comes:
 * a key pressed before the page has caught up with the last edit is neither lost nor an error.
 */
export function useBenchActions(id: string, view: BenchView | undefined): Bench | null {
  const client = useQueryClient();
  const mutation = useMutation({
    scope: { id: `asset-${id}` },
    mutationFn: async ({ path, body }: Request) => {
      const latest = client.getQueryData<BenchView>(['asset', id]);
      if (latest && path === 'cursor' && 'by' in body && !canMove(latest, body.by)) return latest;
      return api<BenchView>(`/api/assets/${id}/${path}`, { method: 'POST', body });
    },
    onSuccess: (next) => client.setQueryData(['asset', id], next),
    onError: (error) => toast.error(error.message),
  });
  const making = useStartMaking(id);
  if (!view) return null;
  return {
    view,
    busy: mutation.isPending,
    canUndo: canMove(view, -1),
    canRedo: canMove(view, 1),
    apply: (edits) => edits.length > 0 && mutation.mutate({ path: 'edits', body: { edits } }),
    answer: (finding, choice, remember) => mutation.mutate({ path: 'answers', body: { finding, choice, remember } }),
    make: (request) => making.mutate(request),
    undo: () => mutation.mutate({ path: 'cursor', body: { by: -1 } }),
    redo: () => mutation.mutate({ path: 'cursor', body: { by: 1 } }),
    jump: (to) => mutation.mutate({ path: 'cursor', body: { to } }),
  };
}

/** Whether the log has an entry to undo (-1) or to redo (1). */
function canMove({ log }: BenchView, by: 1 | -1): boolean {
  return by < 0 ? log.some((entry) => !entry.undone) : log.some((entry) => entry.undone);
}

const BenchContext = createContext<Bench | null>(null);
export const BenchProvider = BenchContext.Provider;

export function useBench(): Bench {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error('this part belongs on the bench');
  return bench;
}
