import type { AssetSource, ParcelImage } from '@kinkajou/core/asset/asset';
import type { MaterialPair } from '@kinkajou/core/compare/compareReadings';
import type { ImageInfo } from '@kinkajou/core/images/probe';
import type { Figure } from '@kinkajou/core/materials/recipes/recipe';
import type { ChannelName, ColourSpace } from '@kinkajou/core/scene/material';

/** A fault as the page shows it. */
export interface FaultRecord {
  code: string;
  message: string;
  hint: string;
  file: string;
}

/** An image that came inside a model. */
export interface EmbeddedRecord {
  path: string;
  sha256: string;
  size: number;
  info: ImageInfo | null;
  fault: { code: string; message: string } | null;
}

/** A package as its receiver reads it: each model's materials and geometry, and the content of its images. */
export interface HandoffReading {
  models: { source: AssetSource; images: ParcelImage[]; geometry: string }[];
  pairs: MaterialPair[];
  metresPerUnit: number;
}

/** What a newer delivery changed, in paths and words. */
export interface DeliverySummary {
  from: string;
  replaced: string[];
  added: string[];
  unchanged: number;
  modelChanged: boolean;
  materialsAdded: string[];
  materialsRemoved: string[];
  /** Parts of edits that no longer apply. */
  skipped: string[];
  findingsAdded: string[];
  findingsGone: string[];
}

/** A change of colour space that was asked for. */
export interface ConversionRequest {
  /** Path of a parcel image. */
  image: string;
  from: ColourSpace;
  to: ColourSpace;
  exponent: number;
}

/** What is worth knowing of one material's result; `heat` is a stored picture of where much was lost. */
export interface DerivedMapNote {
  material: string;
  figures: Figure[];
  /** Channels that went in by their mean. */
  means?: ChannelName[];
  heat: { title: string; sha256: string } | null;
}

/** How far a parcel is on its way in. */
export type ParcelState = 'uploading' | 'reading' | 'ready' | 'failed';

/** How far a job is. */
export type JobState = 'queued' | 'running' | 'done' | 'failed' | 'cancelled';
