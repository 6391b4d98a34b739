import type { AssetSource, AssetState, Edit, ParcelImage } from '../asset/asset.ts';
import type { FileIndex } from '../links/fileIndex.ts';
import type { ChannelName } from '../scene/material.ts';

export type Severity = 'error' | 'warning' | 'note';
export type Step = 'intake' | 'links' | 'slots' | 'colour' | 'surface' | 'parts' | 'compare' | 'handoff';

/** Something wrong or doubtful, with its evidence and, where there is one, a mend. */
export interface Finding {
  /** Dotted and stable, such as `link.missing`. */
  code: string;
  step: Step;
  severity: Severity;
  /** Unique within the asset and stable over edits that do not touch it. */
  key: string;
  title: string;
  /** What it is about: a material, an image, a file. */
  subject: string;
  message: string;
  evidence: string[];
  /** The edit that settles it, or null where a person must decide. */
  mend: Edit | null;
  /** A safe mend has one clear outcome and is applied by "mend all safe". */
  safe: boolean;
  mendLabel: string;
  /** Where to look. */
  target: { material?: string; channel?: ChannelName; image?: string };
}

export interface FindingContext {
  source: AssetSource;
  state: AssetState;
  images: readonly ParcelImage[];
  index: FileIndex;
}

/** One check: looks at the asset and lists what it finds. */
export type Check = (context: FindingContext) => Finding[];

export const SEVERITIES: readonly Severity[] = ['error', 'warning', 'note'];
