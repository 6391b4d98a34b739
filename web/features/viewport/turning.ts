'use client';

import { create } from 'zustand';

/** Seconds of the turn that is being played; 0 while everything stands still. Not remembered. */
export const useTurning = create<{ seconds: number }>()(() => ({ seconds: 0 }));

/**
 * Where a turn is so many seconds after it began, in radians: the same way round as the clip that goes along,
 * about what is up.
 */
export function angleAfter(elapsed: number, seconds: number): number {
  return 2 * Math.PI * ((elapsed / seconds) % 1);
}
