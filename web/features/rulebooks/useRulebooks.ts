'use client';

import type { Rulebook } from '@kinkajou/core/rules/rulebook';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { toast } from 'sonner';
import type { LearntRules, RulebookEntry, RulebookPast } from '@/server/services/rulebooks';
import { api } from '@/ui/api';

const KEY = ['rulebooks'];

/** All rulebooks. */
export function useRulebooks() {
  return useQuery({
    queryKey: KEY,
    queryFn: async () => (await api<{ rulebooks: RulebookEntry[] }>('/api/rulebooks')).rulebooks,
  });
}

/** What one said earlier, and where it is in use. */
export function useRulebookPast(id: string) {
  return useQuery({
    queryKey: [...KEY, id, 'past'],
    queryFn: () => api<RulebookPast>(`/api/rulebooks/${id}/past`),
    staleTime: 0,
  });
}

/** Keeps a rulebook, a new one where there is no id, and shows it. */
export function useSaveRulebook(show: (id: string) => void) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ book, id }: { book: unknown; id: string | null }) =>
      api<{ id: string; rulebooks: RulebookEntry[] }>(
        id === null ? '/api/rulebooks' : `/api/rulebooks/${id}`,
        {
          method: id === null ? 'POST' : 'PUT',
          body: book,
        },
      ),
    onSuccess: ({ id, rulebooks }) => {
      client.setQueryData(KEY, rulebooks);
      show(id);
    },
    onError: (error) => toast.error(error.message),
  });
}

/**
 * Makes a rulebook of what was done, and shows it: of an asset's log or of a run, by the address that does
 * it.
 */
export function useLearnRules(path: string) {
  const router = useRouter();
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { edits: readonly number[] } | undefined) =>
      api<LearntRules>(path, { method: 'POST', body }),
    onSuccess: ({ id, without }) => {
      void client.invalidateQueries({ queryKey: KEY });
      if (without.length > 0) toast(`Left out: ${without.join('; ')}`);
      router.push(`/rulebooks?show=${id}`);
    },
    onError: (error) => toast.error(error.message),
  });
}

/** Has a rulebook applied to whatever arrives, or no more. */
export function useOnArrival() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ id, onArrival }: { id: string; onArrival: boolean }) =>
      api<{ rulebooks: RulebookEntry[] }>(`/api/rulebooks/${id}`, { method: 'PATCH', body: { onArrival } }),
    onSuccess: ({ rulebooks }) => client.setQueryData(KEY, rulebooks),
    onError: (error) => toast.error(error.message),
  });
}

/** Removes one; the notice brings it back. */
export function useRemoveRulebook(show: (id: string | null) => void) {
  const client = useQueryClient();
  const save = useSaveRulebook(show);
  return useMutation({
    mutationFn: ({ id }: { id: string; book: Rulebook }) =>
      api<{ rulebooks: RulebookEntry[] }>(`/api/rulebooks/${id}`, { method: 'DELETE' }),
    onSuccess: ({ rulebooks }, { book }) => {
      client.setQueryData(KEY, rulebooks);
      show(rulebooks[0]?.id ?? null);
      toast(`${book.title} was removed`, {
        action: { label: 'Undo', onClick: () => save.mutate({ book, id: null }) },
      });
    },
    onError: (error) => toast.error(error.message),
  });
}
