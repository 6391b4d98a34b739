'use client';

import type { Edit } from '@kinkajou/core/asset/asset';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { createContext, useContext } from 'react';
import { toast } from 'sonner';
import type { BenchView } from '@/server/services/assets';
import { api } from '@/ui/api';

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
  undo(): void;
  redo(): void;
  /** Goes to a place in the log: as many edits applied as given. */
  jump(to: number): void;
}

/** Actions on one asset. Requests go one after the other, so that quick keys never overtake each other. */
export function useBenchActions(id: string, view: BenchView | undefined): Bench | null {
  const client = useQueryClient();
  const mutation = useMutation({
    scope: { id: `asset-${id}` },
    mutationFn: ({ path, body }: { path: string; body: unknown }) => api<BenchView>(`/api/assets/${id}/${path}`, { method: 'POST', body }),
    onSuccess: (next) => client.setQueryData(['asset', id], next),
    onError: (error) => toast.error(error.message),
  });
  if (!view) return null;
  const cursor = view.log.filter((entry) => !entry.undone).length;
  const send = (path: string, body: unknown) => mutation.mutate({ path, body });
  return {
    view,
    busy: mutation.isPending,
    canUndo: cursor > 0,
    canRedo: cursor < view.log.length,
    apply: (edits) => edits.length > 0 && send('edits', { edits }),
    undo: () => send('cursor', { by: -1 }),
    redo: () => send('cursor', { by: 1 }),
    jump: (to) => send('cursor', { to }),
  };
}

const BenchContext = createContext<Bench | null>(null);
export const BenchProvider = BenchContext.Provider;

export function useBench(): Bench {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error('this part belongs on the bench');
  return bench;
}
