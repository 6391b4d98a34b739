'use client';

import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { toast } from 'sonner';
import type { RunWithPackages } from '@/server/services/runPackages';
import type { RunEntry, RunRequest, RunResult } from '@/server/services/runs';
import type { ShelfFilter } from '@/server/wire/shelf';
import { api } from '@/ui/api';
import { plural } from '@/ui/format';

export type { RunEntry, RunWithPackages };

/** Names of assets that are listed in a notice. */
const LISTED = 5;

/** All runs; asked for again while one goes on. */
export function useRuns() {
  return useQuery({
    queryKey: ['runs'],
    queryFn: async () => (await api<{ runs: RunEntry[] }>('/api/runs')).runs,
    // Events tell of each change; the end of one must not be missed.
    refetchInterval: ({ state: { data } }) => (data?.some(isGoing) ? 2000 : false),
  });
}

/** One run, looked at again while it goes on. */
export function useRun(id: string | null) {
  return useQuery({
    queryKey: ['runs', id],
    queryFn: () => api<RunWithPackages>(`/api/runs/${id}`),
    enabled: id !== null,
    refetchInterval: ({ state: { data } }) =>
      data && (isGoing(data) || data.packages.going > 0) ? 1000 : false,
  });
}

/** Whether a run waits or is at work. */
export function isGoing({ state }: Pick<RunEntry, 'state'>): boolean {
  return state === 'queued' || state === 'running';
}

/** What is asked of several assets at once. */
export type AskedOfMany = Omit<RunRequest, 'apply' | 'assets' | 'filter'> & { title: string } & (
    | { assets: string[] }
    | { filter: ShelfFilter }
  );

/** Begins a run over several assets and shows it. */
export function useStartRun(begun?: (asked: AskedOfMany) => void) {
  const router = useRouter();
  const client = useQueryClient();
  return useMutation({
    mutationFn: (asked: AskedOfMany) =>
      api<{ job: string }>('/api/runs', { method: 'POST', body: { ...asked, apply: true } }),
    onSuccess: ({ job }, asked) => {
      begun?.(asked);
      void client.invalidateQueries({ queryKey: ['runs'] });
      router.push(`/runs?run=${job}`);
    },
    onError: (error) => toast.error(error.message),
  });
}

/** Undoes a run as a whole, and tells what had moved on. */
export function useUndoRun() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => api<RunResult>(`/api/runs/${id}/undo`, { method: 'POST' }),
    onSuccess: ({ undone }) => {
      void client.invalidateQueries();
      const kept = undone?.kept ?? [];
      toast(
        `Undone in ${plural(undone?.assets ?? 0, 'asset')}${kept.length > 0 ? `; changed since and left: ${kept.slice(0, LISTED).join(', ')}` : ''}`,
      );
    },
    onError: (error) => toast.error(error.message),
  });
}

/** Does again what failed or was not reached; shows the new run. */
export function useRepeatRun(show: (id: string) => void) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => api<{ job: string }>(`/api/runs/${id}/repeat`, { method: 'POST' }),
    onSuccess: ({ job }) => {
      void client.invalidateQueries({ queryKey: ['runs'] });
      show(job);
    },
    onError: (error) => toast.error(error.message),
  });
}

/** How a run fared, in a few words. */
export function fared({ state, progress, counts, undone }: RunEntry): string {
  if (state === 'running') return `${Math.round(progress * 100)}%`;
  if (undone) return `undone in ${undone.assets}`;
  const done =
    counts.compared > 0
      ? `${counts.apart} of ${counts.compared} to look at`
      : plural(counts.changed, 'asset');
  const words = [done, ...(counts.failed > 0 ? [`${counts.failed} failed`] : [])].join(', ');
  if (state === 'done') return words;
  if (state === 'cancelled') return `stopped, ${words}`;
  return state === 'queued' ? 'waiting' : state;
}
