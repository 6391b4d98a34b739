'use client';

import { create } from 'zustand';
import type { ShelfFilter } from '@/server/wire/shelf';
import { api } from '@/ui/api';

interface Selected {
  /** Ids of selected assets. Not remembered. */
  ids: ReadonlySet<string>;
  filter: ShelfFilter;
}

/** What the shelf shows and which of it is worked on. */
export const useSelected = create<Selected>()(() => ({ ids: new Set<string>(), filter: {} }));

/** Chooses these assets and no others. */
export function select(ids: Iterable<string>): void {
  useSelected.setState({ ids: new Set(ids) });
}

/** Chooses an asset, or no longer. */
export function toggle(id: string): void {
  const ids = new Set(useSelected.getState().ids);
  if (!ids.delete(id)) ids.add(id);
  useSelected.setState({ ids });
}

/** Sets some of the filters; what is undefined or an empty search is none. What was selected stays so. */
export function filterBy(part: Partial<ShelfFilter>): void {
  const filter = Object.fromEntries(
    Object.entries({ ...useSelected.getState().filter, ...part }).filter(
      ([, value]) => value !== undefined && value !== '',
    ),
  );
  useSelected.setState({ filter });
}

/** A filter as the shelf's address has it. */
export function filterParams(filter: ShelfFilter): URLSearchParams {
  return new URLSearchParams(Object.entries(filter).map(([name, value]) => [name, String(value)]));
}

/** Selects all that the filters find, on all pages. */
export async function selectAllFound(): Promise<void> {
  const { ids } = await api<{ ids: string[] }>(
    `/api/shelf/ids?${filterParams(useSelected.getState().filter)}`,
  );
  select(ids);
}
