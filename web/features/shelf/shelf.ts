'use client';

import { useQuery } from '@tanstack/react-query';
import type { FaultRecord, ParcelState } from '@/server/db/schema';
import type { ShelfEntry } from '@/server/services/assets';
import { api } from '@/ui/api';

export type { ShelfEntry };

export interface OpenParcel {
  id: string;
  name: string;
  state: ParcelState;
  progress: number;
  doing: string;
  faults: FaultRecord[];
  createdAt: string;
}

export function useShelf() {
  return useQuery({ queryKey: ['shelf'], queryFn: () => api<{ assets: ShelfEntry[]; parcels: OpenParcel[] }>('/api/shelf') });
}
