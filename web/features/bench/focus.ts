'use client';

import type { SlotAddress } from '@kinkajou/core/asset/asset';
import { create } from 'zustand';

/** A dialog of the bench. */
export type Dialog =
  | 'picker'
  | 'log'
  | 'evidence'
  | 'deliveries'
  | 'templates'
  | 'form'
  | 'convert'
  | 'make'
  | 'metal'
  | 'shelf'
  | 'stills'
  | 'takeoff'
  | 'join'
  | null;

/** What the person is looking at on the bench. Not remembered. */
interface Focus {
  finding: string | null;
  /** The slot that the details show; selections grow from `anchor`. */
  slot: SlotAddress | null;
  anchor: SlotAddress | null;
  selected: SlotAddress[];
  image: string | null;
  /** Which of the image's candidates is chosen. */
  candidate: number;
  dialog: Dialog;
  /** Key of the finding whose question is open in place of the step. */
  question: string | null;
  /** Images chosen in the tray, by path. */
  images: string[];
  set(part: Partial<Omit<Focus, 'set'>>): void;
}

/** What is chosen on the bench, and which dialog is open. */
export const useFocus = create<Focus>()((set) => ({
  finding: null,
  slot: null,
  anchor: null,
  selected: [],
  image: null,
  candidate: 0,
  dialog: null,
  question: null,
  images: [],
  set: (part) => set(part),
}));

/** Whether both are the same slot, or none. */
export function sameSlot(a: SlotAddress | null, b: SlotAddress | null): boolean {
  return a?.material === b?.material && a?.channel === b?.channel;
}

/** Focuses a material in the channel at hand, and selects it or several. */
export function focusMaterial(key: string, selected: readonly string[] = [key]): void {
  const { slot, set } = useFocus.getState();
  const channel = slot?.channel ?? 'baseColor';
  const here = { material: key, channel };
  set({ slot: here, anchor: here, selected: selected.map((material) => ({ material, channel })) });
}
