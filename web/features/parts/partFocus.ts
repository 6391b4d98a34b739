'use client';

import { create } from 'zustand';

/** Which parts are selected and shown. Not remembered. */
interface PartFocus {
  selected: string[];
  /** Where the selection grows from, and the row that keys are about. */
  anchor: string | null;
  focused: string | null;
  /** Not shown in the view. */
  hidden: ReadonlySet<string>;
  /** Shown alone; null for all. */
  alone: ReadonlySet<string> | null;
  folded: ReadonlySet<string>;
  /** The part whose holes are shown in the view. */
  open: string | null;
  search: string;
  /** The next click in the view says where the selected parts turn about. */
  picking: boolean;
  set(part: Partial<Omit<PartFocus, 'set'>>): void;
}

export const NOTHING = {
  selected: [],
  anchor: null,
  focused: null,
  hidden: new Set<string>(),
  alone: null,
  folded: new Set<string>(),
  open: null,
  search: '',
  picking: false,
};

export const usePartFocus = create<PartFocus>()((set) => ({ ...NOTHING, set: (part) => set(part) }));

export function selectParts(keys: string[], focused: string | null = keys.at(-1) ?? null): void {
  usePartFocus.getState().set({ selected: keys, anchor: keys[0] ?? null, focused, open: null });
}

/** Selects a part and tints the faces around its holes. */
export function showOpen(key: string): void {
  selectParts([key]);
  usePartFocus.getState().set({ open: key });
}
