'use client';

import type { Part } from '@kinkajou/core/asset/parts';
import { create } from 'zustand';
import type { Placing } from './placing.ts';

/** Which parts are selected and shown. Not remembered. */
interface PartFocus {
  selected: string[];
  /** Where the selection grows from, and the row that keys are about. */
  anchor: string | null;
  focused: string | null;
  /** Not shown in the view. */
  hidden: ReadonlySet<string>;
  /** Shown although the file hides them. */
  revealed: ReadonlySet<string>;
  /** Shown alone; null for all. */
  alone: ReadonlySet<string> | null;
  folded: ReadonlySet<string>;
  /** The part whose holes are shown in the view. */
  open: string | null;
  search: string;
  /** The next click in the view says where the selected parts turn about. */
  picking: boolean;
  /** The parts that are being placed, and where; null for none. */
  placing: Placing | null;
  set(part: Partial<Omit<PartFocus, 'set'>>): void;
}

/** No part chosen, hidden or open. */
export const NOTHING = {
  selected: [],
  anchor: null,
  focused: null,
  hidden: new Set<string>(),
  revealed: new Set<string>(),
  alone: null,
  folded: new Set<string>(),
  open: null,
  search: '',
  picking: false,
  placing: null,
};

/** Whether the view leaves a part out: by hand, or as its file has it. */
export function isHidden(
  part: Pick<Part, 'key' | 'hidden'>,
  { hidden, revealed }: Pick<PartFocus, 'hidden' | 'revealed'>,
): boolean {
  return hidden.has(part.key) || (part.hidden && !revealed.has(part.key));
}

/** Whether the view draws a part; `whole` as the file and its edits have it, whatever is hidden by hand. */
export function isDrawn(
  part: Pick<Part, 'key' | 'hidden' | 'dropped'>,
  focus: Pick<PartFocus, 'hidden' | 'revealed' | 'alone'>,
  whole: boolean,
): boolean {
  if (part.dropped) return false;
  if (whole) return !part.hidden;
  return focus.alone?.has(part.key) ?? !isHidden(part, focus);
}

/** Which parts are chosen, hidden and shown alone. */
export const usePartFocus = create<PartFocus>()((set) => ({ ...NOTHING, set: (part) => set(part) }));

/** Chooses parts; the first is where a range begins. */
export function selectParts(keys: string[], focused: string | null = keys.at(-1) ?? null): void {
  usePartFocus
    .getState()
    .set({ selected: keys, anchor: keys[0] ?? null, focused, open: null, placing: null });
}

/** Selects a part and tints the faces around its holes. */
export function showOpen(key: string): void {
  selectParts([key]);
  usePartFocus.getState().set({ open: key });
}

/** Takes parts out of the view, or shows them, also those that the file hides. */
export function hide(keys: readonly string[], hidden: boolean): void {
  const focus = usePartFocus.getState();
  const [away, revealed] = [new Set(focus.hidden), new Set(focus.revealed)];
  for (const key of keys) {
    (hidden ? away : revealed).add(key);
    (hidden ? revealed : away).delete(key);
  }
  focus.set({ hidden: away, revealed });
}
