'use client';

import type { PixelFacts } from '@kinkajou/core/maps/pixelFacts';
import type { MapUse } from '@kinkajou/core/scene/material';
import { useQuery } from '@tanstack/react-query';
import { api } from '@/ui/api';
import { useBench } from '../bench/useBench.ts';

/** What is known of the pixels that a use reads; null until it is known. */
export function useFactsOf(map: MapUse | null): PixelFacts | null {
  const { view } = useBench();
  const path = map && view.state.images.find((image) => image.key === map.image)?.resolved;
  const hash = path ? view.images.find((image) => image.path === path)?.sha256 : undefined;
  const { data } = useQuery({
    queryKey: ['facts', hash, view.looked.done],
    enabled: hash !== undefined,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => api<{ facts: PixelFacts | null }>(`/api/facts/${hash}`),
  });
  return data?.facts ?? null;
}
