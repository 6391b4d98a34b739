'use client';

import type { ChannelDifference } from '@kinkajou/core/compare/compareMaterials';
import { useMutation, useQueries, useQuery, useQueryClient } from '@tanstack/react-query';
import { toast } from 'sonner';
import { create } from 'zustand';
import type { SideEntry, SideView } from '@/server/services/compare';
import type { WholeComparison } from '@/server/services/compareWhole';
import { api } from '@/ui/api';
import { useChoices } from '@/ui/choices';
import { useBench } from '../bench/useBench.ts';
import { droppedPath, useUploads } from '../intake/uploads.ts';

interface CompareFocus {
  /** The row of the table that is looked at. */
  material: string | null;
  channel: string | null;
  /** Which side blinking shows. */
  blinkB: boolean;
  /** B is drawn at A's size instead of its own. */
  scaled: boolean;
  /** The part that is tinted. */
  part: string | null;
}

/** The material and channel whose pictures are compared. */
export const useCompareFocus = create<CompareFocus>(() => ({
  material: null,
  channel: null,
  blinkB: false,
  scaled: false,
  part: null,
}));

/** Every way to read the asset: delivered, edited, carelessly, and each handoff. */
function useSides(): SideEntry[] | undefined {
  const { view } = useBench();
  return useQuery({
    queryKey: ['sides', view.id],
    queryFn: async () => (await api<{ sides: SideEntry[] }>(`/api/assets/${view.id}/compare/sides`)).sides,
  }).data;
}

/**
 * The two sides that are chosen; what is gone gives way to the source, and to the newest handoff or a
 * careless reader.
 */
export function usePair(): { a: SideEntry; b: SideEntry; sides: SideEntry[] } | null {
  const sides = useSides();
  const { a, b } = useChoices((choices) => choices.compare);
  if (!sides) return null;
  const find = (side: string) => sides.find((entry) => entry.side === side);
  const newest = sides.find(({ kind }) => kind === 'handoff') ?? (find('careless') as SideEntry);
  return { a: find(a) ?? (find('edited') as SideEntry), b: find(b) ?? newest, sides };
}

/** One side as the view shows it; undefined while it is fetched. */
export function useSide(side: string | undefined): SideView | undefined {
  const { view } = useBench();
  return useQuery({
    queryKey: ['side', view.id, side, side?.startsWith('handoff:') ? '' : view.version],
    queryFn: () =>
      api<SideView>(`/api/assets/${view.id}/compare/side?side=${encodeURIComponent(side ?? '')}`),
    enabled: side !== undefined,
  }).data;
}

/** The numbers of one material; undefined while they are worked out. */
export interface MaterialRows {
  material: string;
  channels: ChannelDifference[] | undefined;
  error: string | null;
}

/** Numbers of each material, asked for one after the other. */
export function useDifferences(a: string | undefined, b: string | undefined): MaterialRows[] {
  const { view } = useBench();
  const limit = useChoices((choices) => choices.compare.limit);
  const materials = view.state.materials.map(({ key }) => key);
  const results = useQueries({
    queries: materials.map((material) => ({
      queryKey: ['compare', view.id, a, b, material, limit, view.version],
      queryFn: ({ signal }) =>
        inTurn(signal, async () => {
          const asked = new URLSearchParams({ a: a ?? '', b: b ?? '', material, limit: String(limit / 255) });
          return (await api<{ channels: ChannelDifference[] }>(`/api/assets/${view.id}/compare?${asked}`))
            .channels;
        }),
      enabled: a !== undefined && b !== undefined && a !== b,
      retry: false,
    })),
  });
  return materials.map((material, i) => ({
    material,
    channels: results[i].data,
    error: results[i].error?.message ?? null,
  }));
}

/** What two sides differ in besides the numbers of their channels; parts and shapes take a while. */
export function useWhole(a: string | undefined, b: string | undefined) {
  const { view } = useBench();
  return useQuery({
    queryKey: ['compare-whole', view.id, a, b, view.version],
    queryFn: ({ signal }) =>
      inTurn(signal, () =>
        api<WholeComparison>(
          `/api/assets/${view.id}/compare/whole?${new URLSearchParams({ a: a ?? '', b: b ?? '' })}`,
        ),
      ),
    enabled: a !== undefined && b !== undefined && a !== b,
    retry: false,
  });
}

/** Sends what came back from another application as a parcel of its own, and takes it as side B. */
export function useCameBack() {
  const { view } = useBench();
  const client = useQueryClient();
  const start = useUploads((uploads) => uploads.start);
  const setCompare = useChoices((choices) => choices.setCompare);
  return useMutation({
    async mutationFn(files: readonly File[]) {
      const parcel = await start(files.map((file) => ({ path: droppedPath(file), file })));
      if (parcel === null) throw new Error('It could not be sent; the intake tells why.');
      for (;;) {
        const { state, faults } = await api<{ state: string; faults: { message: string }[] }>(
          `/api/parcels/${parcel}`,
        );
        if (state === 'failed') throw new Error(faults[0]?.message ?? 'It could not be read.');
        if (state === 'ready') break;
        await new Promise((resolve) => setTimeout(resolve, 400));
      }
      const { sides } = await api<{ sides: SideEntry[] }>(`/api/assets/${view.id}/compare/sides`);
      client.setQueryData(['sides', view.id], sides);
      const back = sides.find((side) => side.parcel === parcel);
      if (!back) throw new Error('There is no model in it.');
      setCompare({ a: 'edited', b: back.side });
    },
    onError: (error) => toast.error(error.message),
  });
}

let last: Promise<unknown> = Promise.resolve();

/**
 * One request after the other, so that pictures for the view come between; what is no longer wanted is passed
 * over.
 */
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

/** A channel of two sides, or the difference of them times `scale`. */
interface PictureRequest {
  a: string;
  b: string;
  material: string;
  channel: string;
  what: 'a' | 'b' | 'difference';
  scale: number;
}

/** Where a picture of two sides is; another `version` of the asset is another picture. */
export function pictureOfPair(asset: string, { scale, ...request }: PictureRequest, version: string): string {
  return `/api/assets/${asset}/compare/picture?${new URLSearchParams({ ...request, scale: String(scale), at: version })}`;
}
