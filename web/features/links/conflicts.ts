'use client';

import { create } from 'zustand';

/** What to do with images whose names are in the asset already. */
export type ConflictAnswer = 'reuse' | 'replace' | 'both';

interface Conflicts {
  pending: { names: string[]; answer: (answer: ConflictAnswer | null) => void } | null;
  set(pending: Conflicts['pending']): void;
}

/** Names that are there already, until somebody says what is to become of them. */
export const useConflicts = create<Conflicts>()((set) => ({
  pending: null,
  set: (pending) => set({ pending }),
}));

/** Asks once for all names; null when the person thinks better of it. */
export function askConflicts(names: string[]): Promise<ConflictAnswer | null> {
  return new Promise((resolve) => {
    useConflicts.getState().set({
      names,
      answer: (answer) => {
        useConflicts.getState().set(null);
        resolve(answer);
      },
    });
  });
}
