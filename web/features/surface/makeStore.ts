'use client';

import type { MakeRequest } from '@kinkajou/core/asset/makeMaps';
import { create } from 'zustand';
import { useFocus } from '../bench/focus.ts';

/** What is about to be made, while its dialog is open. */
export const useMakeStore = create<{ request: MakeRequest | null }>()(() => ({ request: null }));

/** Opens the dialog that shows before and after, and makes new images when told to. */
export function openMake(request: MakeRequest): void {
  useMakeStore.setState({ request });
  useFocus.getState().set({ dialog: 'make' });
}
