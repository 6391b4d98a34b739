'use client';

import type { MakeRequest } from '@kinkajou/core/asset/makeMaps';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { toast } from 'sonner';
import type { DerivedMapRow } from '@/server/services/derivedMaps';
import { api } from '@/ui/api';

const POLL_MS = 700;

/** Jobs that make images for an asset, newest first. */
export function useDerivedMaps(assetId: string) {
  return useQuery({
    queryKey: ['makings', assetId],
    queryFn: async () => (await api<{ makings: DerivedMapRow[] }>(`/api/assets/${assetId}/makings`)).makings,
    refetchInterval: ({ state }) => (state.data?.some(isRunning) ? POLL_MS : false),
  });
}

export function isRunning({ state }: Pick<DerivedMapRow, 'state'>): boolean {
  return state === 'queued' || state === 'running';
}

/** Starts such a job. */
export function useDeriveMaps(assetId: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (request: MakeRequest) =>
      api<{ job: string }>(`/api/assets/${assetId}/makings`, { method: 'POST', body: request }),
    onSuccess: () => client.invalidateQueries({ queryKey: ['makings', assetId] }),
    onError: (error) => toast.error(error.message),
  });
}

/** Tells once when a job ends, wherever the person is by then. */
export function useDerivedMapNews(assetId: string): void {
  const { data } = useDerivedMaps(assetId);
  const existing = useRef(new Map<string, DerivedMapRow['state']>());
  useEffect(() => {
    for (const { id, state, fault, notes, paths } of data ?? []) {
      const before = existing.current.get(id);
      existing.current.set(id, state);
      if (before !== 'queued' && before !== 'running') continue;
      if (state === 'failed') toast.error(fault?.message ?? 'The images could not be made.');
      if (state !== 'done') continue;
      const figure = notes.flatMap(({ figures }) => figures)[0];
      toast.success(
        `${paths.length === 0 ? 'Done' : `Made ${paths.length} ${paths.length === 1 ? 'image' : 'images'}`}${figure ? `; ${figureText(figure)}` : ''}`,
      );
    }
  }, [data]);
}

export function figureText({
  title,
  value,
  unit,
}: DerivedMapRow['notes'][number]['figures'][number]): string {
  const number =
    unit === '%'
      ? `${value.toFixed(value < 10 ? 2 : 0)}%`
      : `${Math.round(value * 100) / 100}${unit && ` ${unit}`}`;
  return title.startsWith('of ') ? `${number} ${title}` : `${title} ${number}`;
}
