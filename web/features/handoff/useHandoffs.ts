'use client';

import { useQuery } from '@tanstack/react-query';
import type { HandoffRow } from '@/server/services/handoffs';
import { api } from '@/ui/api';

/** A handoff as it arrives over JSON. */
export type HandoffEntry = Omit<HandoffRow, 'createdAt' | 'finishedAt'> & {
  createdAt: string;
  finishedAt: string | null;
};

/** Packages of an asset, the latest first. */
export function useHandoffs(assetId: string) {
  return useQuery({
    queryKey: ['handoffs', assetId],
    queryFn: async () =>
      (await api<{ handoffs: HandoffEntry[] }>(`/api/assets/${assetId}/handoffs`)).handoffs,
  });
}
