'use client';

import { create } from 'zustand';

/** How far displacement tears hard edges apart, in metres, by material; 0 where nothing is displaced. */
export const useTear = create<{ tears: Readonly<Record<string, number>> }>()(() => ({ tears: {} }));
