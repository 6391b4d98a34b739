'use client';

import type { DialectName } from '@kinkajou/core/colour/dialects';
import type { HandoffChoices } from '@kinkajou/core/destinations/resolveChoices';
import type { ChannelName } from '@kinkajou/core/scene/material';
import { create } from 'zustand';
import { persist } from 'zustand/middleware';

/** What a person chose and should not have to choose again; kept in the browser. */
export interface Choices {
  theme: 'day' | 'night' | null;
  shelfSort: 'changed' | 'name' | 'findings' | 'polygons';
  /** Where handoffs go, and the variant chosen for each destination. */
  destination: string;
  variants: Record<string, string>;
  /** Size, unit and image type by destination, where it leaves them open. */
  settled: Record<string, Omit<HandoffChoices, 'variant'>>;
  /** What of the view goes along in handoffs. */
  stageAlong: 'none' | 'camera' | 'all';
  /** Further destinations that packages are made for in one go. */
  alsoTo: string[];
  compare: CompareChoices;
  /** Board columns that the person added or took away, against what the asset uses. */
  shownColumns: string[];
  hiddenColumns: string[];
  /** Whether the slot board shows the images of the parcel under it. */
  imageTray: boolean;
  /** How high the rows of the slot board are. */
  boardRows: BoardRows;
  /** Whether the docket shows what the step in hand can settle, and nothing else. */
  docketHere: boolean;
  /** Widths of the bench's panels in pixels; the step has what is left. */
  panels: { docket: number; view: number };
  /** Whether the tour of the bench was taken or refused. */
  tourSeen: boolean;
  /** Where packages of a run were last written, on the server's disk. */
  exportFolder: string;
  /** Words in which colour tags are shown. */
  dialect: DialectName;
  /** Whether answers are kept as evidence for later parcels of the same source. */
  rememberAnswers: boolean;
  view: ViewChoices;
  set(part: Partial<Omit<Choices, 'set' | 'setView' | 'setCompare' | 'setLamp'>>): void;
  setView(part: Partial<ViewChoices>): void;
  setCompare(part: Partial<CompareChoices>): void;
  setLamp(name: LampName, part: Partial<Lamp>): void;
}

/** How two sides are shown against each other. */
export const COMPARE_WAYS = ['wipe', 'beside', 'blink', 'difference'] as const;
/** One of {@link COMPARE_WAYS}. */
export type CompareWay = (typeof COMPARE_WAYS)[number];

interface CompareChoices {
  a: string;
  /** Empty takes the newest handoff, or a careless reader where there is none. */
  b: string;
  way: CompareWay;
  /** Where the wipe stands, in 0..1 from the left. */
  at: number;
  /** Times the difference. */
  scale: number;
  /** Steps of 8 bits beyond which a place counts. */
  limit: number;
}

interface ViewChoices {
  size: 'side' | 'full' | 'folded';
  mode: ViewMode;
  /** UV set that the grid and the texel density are shown of, by its place. */
  uvSet: number;
  wireframe: boolean;
  ground: boolean;
  /** Whether a person of 1.75 m stands beside the asset. */
  figure: boolean;
  /** Whether heights move the surface in the view. */
  displaced: boolean;
  probe: boolean;
  /** One of the environments that are computed, or `file:SHA256.hdr` for an uploaded one. */
  environment: string;
  /** What an uploaded one is called. */
  environmentName: string;
  environmentOn: boolean;
  /** Turn of the surroundings, in degrees. */
  turn: number;
  /** Times the environment's own light. */
  strength: number;
  backdrop: Backdrop;
  lamps: Record<LampName, Lamp>;
  /** Exposure in stops; beside what is fitted, where it is. */
  exposure: number;
  /** A grey surface is as bright in every light. */
  fitted: boolean;
  transform: ViewTransform;
  /** Focal length in millimetres for a picture 24 mm high. */
  focal: number;
}

/** The lamps that stand around a model. */
export const LAMPS = ['key', 'fill', 'rim'] as const;
/** One of {@link LAMPS}. */
export type LampName = (typeof LAMPS)[number];

/** How a lamp stands and shines. */
export interface Lamp {
  on: boolean;
  /** 1 is about the light of the studio. */
  strength: number;
  /** Around the object, in degrees from the front. */
  angle: number;
  /** 0 for hard shadows, 1 for very soft ones. */
  softness: number;
}

/** What lies behind a model. */
export const BACKDROPS = ['paper', 'surroundings', 'grey', 'dark'] as const;
/** One of {@link BACKDROPS}. */
export type Backdrop = (typeof BACKDROPS)[number];

/** How light becomes the picture: cut at white, a neutral curve, or the ACES reference curve. */
export const VIEW_TRANSFORMS = ['plain', 'neutral', 'aces'] as const;
/** How light becomes the colours of the screen. */
export type ViewTransform = (typeof VIEW_TRANSFORMS)[number];

/** Heights of the slot board's rows. */
export const BOARD_ROWS = ['roomy', 'middle', 'dense'] as const;
/** One of {@link BOARD_ROWS}. */
export type BoardRows = (typeof BOARD_ROWS)[number];

/** Views that show no channel but what the geometry is like. */
export const DIAGNOSTIC_MODES = ['uv', 'materials', 'facing', 'density'] as const;
/** What the view shows: all of it lit, one channel, or a test picture. */
export type ViewMode = 'lit' | ChannelName | (typeof DIAGNOSTIC_MODES)[number];

const FIRST_VIEW: ViewChoices = {
  size: 'side',
  mode: 'lit',
  uvSet: 0,
  wireframe: false,
  ground: true,
  figure: false,
  displaced: true,
  probe: false,
  environment: 'studio',
  environmentName: '',
  environmentOn: true,
  turn: 40,
  strength: 1,
  backdrop: 'paper',
  lamps: {
    key: { on: true, strength: 1, angle: 40, softness: 0.4 },
    fill: { on: false, strength: 0.4, angle: -50, softness: 0.8 },
    rim: { on: false, strength: 1.2, angle: 200, softness: 0.2 },
  },
  exposure: 0,
  fitted: true,
  transform: 'neutral',
  focal: 42,
};

/** What a person has chosen for this browser; kept over visits, the same in all windows. */
export const useChoices = create<Choices>()(
  persist(
    (set) => ({
      theme: null,
      shelfSort: 'changed',
      destination: 'web-gltf',
      variants: {},
      settled: {},
      stageAlong: 'none',
      alsoTo: [],
      compare: { a: 'edited', b: '', way: 'wipe', at: 0.5, scale: 8, limit: 1.5 },
      shownColumns: [],
      hiddenColumns: [],
      imageTray: false,
      docketHere: false,
      boardRows: 'roomy',
      panels: { docket: 278, view: 396 },
      rememberAnswers: true,
      tourSeen: false,
      exportFolder: '',
      dialect: 'plain',
      view: FIRST_VIEW,
      set: (part) => set(part),
      setView: (part) => set((choices) => ({ view: { ...choices.view, ...part } })),
      setCompare: (part) => set((choices) => ({ compare: { ...choices.compare, ...part } })),
      setLamp: (name, part) =>
        set(({ view }) => ({
          view: { ...view, lamps: { ...view.lamps, [name]: { ...view.lamps[name], ...part } } },
        })),
    }),
    {
      name: 'kinkajou-choices',
      version: 2,
      // What was remembered before a choice was invented lacks it.
      migrate: (kept) => kept as Choices,
      merge: (kept, first) => {
        const { view, compare, ...rest } = (kept ?? {}) as Partial<Choices>;
        return {
          ...first,
          ...rest,
          view: { ...first.view, ...view },
          compare: { ...first.compare, ...compare },
        };
      },
    },
  ),
);

// What is chosen in one window holds in all.
if (typeof window !== 'undefined')
  window.addEventListener('storage', ({ key }) => {
    if (key === 'kinkajou-choices') void useChoices.persist.rehydrate();
  });
