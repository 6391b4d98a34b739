'use client';

import { useQuery } from '@tanstack/react-query';
import type { DestinationEntry } from '@/server/services/destinations';
import { api } from '@/ui/api';

/** Key of the destinations among the queries. */
export const DESTINATIONS_KEY = ['destinations'];

/** Built-in destinations and one's own. */
export function useDestinations() {
  return useQuery({
    queryKey: DESTINATIONS_KEY,
    queryFn: async () => (await api<{ destinations: DestinationEntry[] }>('/api/destinations')).destinations,
  });
}
