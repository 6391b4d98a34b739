'use client';

import { toast } from 'sonner';
import { create } from 'zustand';
import { type ShelfPage, shelfQuery } from '@/features/shelf/shelf';
import { useChoices } from '@/ui/choices';

/** Whether the tour begins as soon as the slot board is there. */
export const useTour = create<{ wanted: boolean }>()(() => ({ wanted: false }));

/**
 * Opens the bench where the tour is shown: of the asset in hand, else of the demo's lantern, else of the
 * newest asset.
 */
export async function startTour(path: string, go: (path: string) => void): Promise<void> {
  const id = /^\/assets\/([^/]+)/.exec(path)?.[1] ?? (await tourAsset());
  if (id === null) {
    toast('The tour needs an asset to be shown on: drop one first.');
    return go('/intake');
  }
  const { view, setView } = useChoices.getState();
  if (view.size !== 'side') setView({ size: 'side' });
  useTour.setState({ wanted: true });
  go(`/assets/${id}/slots`);
}

async function tourAsset(): Promise<string | null> {
  return (await firstOf({ search: 'lantern' })) ?? (await firstOf({}));
}

async function firstOf(query: { search?: string }): Promise<string | null> {
  const { assets }: ShelfPage = await shelfQuery({ ...query, limit: 1 }).queryFn();
  return assets[0]?.id ?? null;
}
