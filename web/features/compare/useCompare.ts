'use client';

import type { ChannelDifference } from '@kinkajou/core/compare/compareMaterials';
import { useQueries, useQuery } from '@tanstack/react-query';
import { create } from 'zustand';
import type { SideEntry, SideView } from '@/server/services/compare';
import { api } from '@/ui/api';
import { useChoices } from '@/ui/choices';
import { useBench } from '../bench/useBench.ts';

interface CompareFocus {
  /** The row of the table that is looked at. */
  material: string | null;
  channel: string | null;
  /** Which side blinking shows. */
  blinkB: boolean;
  /** B is drawn at A's size instead of its own. */
  scaled: boolean;
}

export const useCompareFocus = create<CompareFocus>(() => ({ material: null, channel: null, blinkB: false, scaled: false }));

/** Every way to read the asset: delivered, edited, carelessly, and each handoff. */
export function useSides(): SideEntry[] | undefined {
  const { view } = useBench();
  return useQuery({ queryKey: ['sides', view.id], queryFn: async () => (await api<{ sides: SideEntry[] }>(`/api/assets/${view.id}/compare/sides`)).sides })
    .data;
}

/** The two sides that are chosen; what is gone gives way to the source, and to the newest handoff or a careless reader. */
export function usePair(): { a: SideEntry; b: SideEntry; sides: SideEntry[] } | null {
  const sides = useSides();
  const { a, b } = useChoices((choices) => choices.compare);
  if (!sides) return null;
  const find = (side: string) => sides.find((entry) => entry.side === side);
  const newest = sides.find(({ side }) => side.startsWith('handoff:')) ?? (find('careless') as SideEntry);
  return { a: find(a) ?? (find('edited') as SideEntry), b: find(b) ?? newest, sides };
}

/** What an edit changes: sides that follow the asset are asked for again. */
function useCursor(): number {
  const { view } = useBench();
  return view.log.filter((entry) => !entry.undone).length + view.images.length * 1000;
}

export function useSide(side: string | undefined): SideView | undefined {
  const { view } = useBench();
  const cursor = useCursor();
  return useQuery({
    queryKey: ['side', view.id, side, side?.startsWith('handoff:') ? 0 : cursor],
    queryFn: () => api<SideView>(`/api/assets/${view.id}/compare/side?side=${encodeURIComponent(side ?? '')}`),
    enabled: side !== undefined,
  }).data;
}

export interface MaterialRows {
  material: string;
  channels: ChannelDifference[] | undefined;
  error: string | null;
}

/** Numbers of each material, asked for one after the other. */
export function useDifferences(a: string | undefined, b: string | undefined): MaterialRows[] {
  const { view } = useBench();
  const cursor = useCursor();
  const limit = useChoices((choices) => choices.compare.limit);
  const materials = view.state.materials.map(({ key }) => key);
  const results = useQueries({
    queries: materials.map((material) => ({
      queryKey: ['compare', view.id, a, b, material, limit, cursor],
      queryFn: ({ signal }) =>
        inTurn(signal, async () => {
          const asked = new URLSearchParams({ a: a ?? '', b: b ?? '', material, limit: String(limit / 255) });
          return (await api<{ channels: ChannelDifference[] }>(`/api/assets/${view.id}/compare?${asked}`)).channels;
        }),
      enabled: a !== undefined && b !== undefined && a !== b,
      retry: false,
    })),
  });
  return materials.map((material, i) => ({ material, channels: results[i].data, error: results[i].error?.message ?? null }));
}

let last: Promise<unknown> = Promise.resolve();

/** One request after the other, so that pictures for the view come between; what is no longer wanted is passed over. */
function inTurn<T>(signal: AbortSignal, work: () => Promise<T>): Promise<T> {
  const next = last
    .catch(() => undefined)
    .then(() => {
      signal.throwIfAborted();
      return work();
    });
  last = next;
  return next;
}

export function pictureOfPair(
  asset: string,
  pair: { a: string; b: string },
  material: string,
  channel: string,
  what: 'a' | 'b' | 'difference',
  scale: number,
  cursor: number,
): string {
  return `/api/assets/${asset}/compare/picture?${new URLSearchParams({ ...pair, material, channel, what, scale: String(scale), at: String(cursor) })}`;
}

export { useCursor };
