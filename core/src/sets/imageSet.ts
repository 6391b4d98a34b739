import type { DetectedMap } from '../maps/detectMaps.ts';
import type { MapReading } from '../maps/nameSpans.ts';

/** One image of a set, for one channel. */
export interface SetMember {
  map: DetectedMap;
  reading: MapReading;
  /** Of the image for this channel, in 0..1. */
  confidence: number;
}

/** Images that belong to one material, by their names and folders. */
export interface ImageSet {
  /** Stable while the files are the same. */
  id: string;
  /** What people call it: its common words, else its folder. */
  label: string;
  /** Words that the names share. */
  words: readonly string[];
  folder: string;
  /**
   * Words of the folders above the images, the nearest folder's first; folders that only say "images" are
   * left out.
   */
  folderWords: readonly (readonly string[])[];
  /** At most one a channel, in the order of the channels. */
  members: readonly SetMember[];
  /** Equal for sets of the very same images. */
  content: string;
  /** Nothing but its name speaks for its being a base colour: one image, and no word for a channel. */
  guess: boolean;
  /**
   * Images of the set that gave way: smaller copies, the other direction of a normal, the other shading
   * model.
   */
  spare: readonly DetectedMap[];
  /** The same surface painted for the other shading model, as a whole, where both lie side by side. */
  other: ImageSet | null;
}

/** A shading model that images may be painted for. */
export type PaintedModel = 'metalRough' | 'specGloss';
