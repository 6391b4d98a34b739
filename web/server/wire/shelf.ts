import type { AssetSource } from '@kinkajou/core/asset/asset';

/** How an asset fares by its worst open finding. */
export const SHELF_STATES = ['broken', 'doubtful', 'clean'] as const;
/** One of {@link SHELF_STATES}. */
export type ShelfState = (typeof SHELF_STATES)[number];

/**
 * What an asset of the shelf must be; each word of the search must be in the name, the parcel's, the model's
 * or the format.
 */
export interface ShelfFilter {
  search?: string;
  /** With something broken, with doubts and nothing broken, or with nothing open. */
  state?: ShelfState;
  /** Code of something that is open. */
  code?: string;
  /** Code of something that was open once and is no more. */
  mended?: string;
  format?: AssetSource['format'];
  /** What the file's header says of the program that wrote it. */
  generator?: string;
  /** Assets of one parcel alone. */
  parcel?: string;
  /** Whether a package was made of it. */
  handed?: boolean;
  /** Longest side in metres: more than the one, less than the other. */
  longer?: number;
  shorter?: number;
}

/** What the filters can be set to, with how many assets of the whole shelf each finds. */
export interface ShelfFacets {
  formats: { value: string; count: number }[];
  generators: { value: string; count: number }[];
  codes: { value: string; title: string; count: number }[];
  parcels: { value: string; title: string; count: number }[];
}
