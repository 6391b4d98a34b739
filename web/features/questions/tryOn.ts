'use client';

import type { AssetSource, AssetState, Edit } from '@kinkajou/core/asset/asset';
import { replay } from '@kinkajou/core/edits/log';
import { useMemo } from 'react';
import { create } from 'zustand';
import type { BenchView } from '../bench/useBench.ts';

/** Edits that the view shows as if they were made; nothing is recorded. */
export const useTryOn = create<{ edits: readonly Edit[] }>()(() => ({ edits: [] }));

/** The state that the view shows: with what is being tried on top of what is recorded. */
export function useTriedState(view: BenchView): AssetState {
  const { edits } = useTryOn();
  return useMemo(() => (edits.length === 0 ? view.state : withEdits(view, edits)), [view, edits]);
}

/** What the state would be after some edits. */
function withEdits(
  { source, state, images, further }: Pick<BenchView, 'source' | 'state' | 'images' | 'further'>,
  edits: readonly Edit[],
): AssetState {
  const from: AssetSource = { ...source, materials: state.materials, images: state.images };
  const tried = replay(from, edits, [...images, ...further]).state;
  return { ...state, materials: tried.materials, images: tried.images };
}
