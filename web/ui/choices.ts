'use client';

import type { DialectName } from '@kinkajou/core/colour/dialects';
import { create } from 'zustand';
import { persist } from 'zustand/middleware';

/** What a person chose and should not have to choose again; kept in the browser. */
export interface Choices {
  theme: 'day' | 'night' | null;
  shelfSort: 'changed' | 'name' | 'findings' | 'polygons';
  variant: 'glb' | 'gltf';
  /** Board columns that the person added or took away, against what the asset uses. */
  shownColumns: string[];
  hiddenColumns: string[];
  /** Whether the slot board shows the images of the parcel under it. */
  imageTray: boolean;
  /** Words in which colour tags are shown. */
  dialect: DialectName;
  view: ViewChoices;
  set(part: Partial<Omit<Choices, 'set' | 'setView'>>): void;
  setView(part: Partial<ViewChoices>): void;
}

export interface ViewChoices {
  size: 'side' | 'full' | 'folded';
  mode: ViewMode;
  wireframe: boolean;
  ground: boolean;
  key: boolean;
  /** Turn of the surroundings, in degrees. */
  turn: number;
  /** Exposure in stops. */
  exposure: number;
}

export const VIEW_MODES = ['lit', 'baseColor', 'roughness', 'metalness', 'normal', 'occlusion', 'emission', 'opacity'] as const;
export type ViewMode = (typeof VIEW_MODES)[number];

export const useChoices = create<Choices>()(
  persist(
    (set) => ({
      theme: null,
      shelfSort: 'changed',
      variant: 'glb',
      shownColumns: [],
      hiddenColumns: [],
      imageTray: false,
      dialect: 'plain',
      view: { size: 'side', mode: 'lit', wireframe: false, ground: true, key: true, turn: 40, exposure: 0 },
      set: (part) => set(part),
      setView: (part) => set((choices) => ({ view: { ...choices.view, ...part } })),
    }),
    { name: 'kinkajou-choices', version: 1 },
  ),
);
