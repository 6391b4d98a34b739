'use client';

import type { SlotAddress } from '@kinkajou/core/asset/asset';
import { create } from 'zustand';

/** What the person is looking at on the bench. Not remembered. */
interface Focus {
  finding: string | null;
  /** The slot that the details show; selections grow from `anchor`. */
  slot: SlotAddress | null;
  anchor: SlotAddress | null;
  selected: SlotAddress[];
  image: string | null;
  dialog: 'keys' | 'picker' | 'log' | 'evidence' | null;
  set(part: Partial<Omit<Focus, 'set'>>): void;
}

export const useFocus = create<Focus>()((set) => ({
  finding: null,
  slot: null,
  anchor: null,
  selected: [],
  image: null,
  dialog: null,
  set: (part) => set(part),
}));

export function sameSlot(a: SlotAddress | null, b: SlotAddress | null): boolean {
  return a?.material === b?.material && a?.channel === b?.channel;
}
