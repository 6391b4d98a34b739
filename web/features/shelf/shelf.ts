'use client';

import { keepPreviousData, useQuery } from '@tanstack/react-query';
import type { FaultRecord, ParcelState } from '@/server/db/rowTypes';
import type { ShelfEntry, ShelfPage, ShelfQuery } from '@/server/services/shelf';
import { api } from '@/ui/api';

export type { ShelfEntry, ShelfPage };

/** A parcel on its way in, or one whose list of faults stands open. */
export interface OpenParcel {
  id: string;
  name: string;
  state: ParcelState;
  progress: number | null;
  doing: string | null;
  faults: FaultRecord[];
  createdAt: string;
}

/** One page of the shelf. */
export function shelfQuery(query: ShelfQuery) {
  const params = new URLSearchParams(Object.entries(query).map(([name, value]) => [name, String(value)]));
  return { queryKey: ['shelf', query], queryFn: () => api<ShelfPage>(`/api/shelf?${params}`) };
}

/** A page of the shelf; the one before stays until it is there. */
export function useShelf(query: ShelfQuery) {
  return useQuery({ ...shelfQuery(query), placeholderData: keepPreviousData });
}

/** Parcels that are being read, failed, or have something left out. */
export function useOpenParcels() {
  return useQuery({
    queryKey: ['parcels'],
    queryFn: async () => (await api<{ parcels: OpenParcel[] }>('/api/parcels/open')).parcels,
  });
}
