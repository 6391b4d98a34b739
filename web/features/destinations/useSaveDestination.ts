'use client';

import type { Destination } from '@kinkajou/core/destinations/profile';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { toast } from 'sonner';
import type { DestinationEntry } from '@/server/services/destinations';
import { api } from '@/ui/api';
import { DESTINATIONS_KEY } from './useDestinations.ts';

/** Saves a destination; `replaces` is the id that it had. */
export function useSaveDestination(show: (id: string) => void) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { profile: unknown; replaces: string | null }) =>
      api<{ destinations: DestinationEntry[] }>('/api/destinations', { method: 'POST', body }),
    onSuccess: ({ destinations }, { profile }) => {
      client.setQueryData(DESTINATIONS_KEY, destinations);
      show((profile as Destination).id);
    },
    onError: (error) => toast.error(error.message),
  });
}
