import { type FactsByHash, NO_FACTS } from '../asset/collectFacts.ts';
import type { HouseWords } from '../maps/nameSpans.ts';
import type { SetAnswer } from '../sets/answers.ts';
import type { PaintedModel } from '../sets/imageSet.ts';

/** What is known beside the asset itself. */
export interface Knowledge {
  /** What pixels say, by content. */
  facts: FactsByHash;
  /** Words of one's own house for channels. */
  house?: HouseWords;
  /** What people answered when they were asked which set is whose. */
  answers?: readonly SetAnswer[];
  /** The shading model of the destination, where it is known: of two that lie side by side it is taken. */
  prefers?: PaintedModel;
}

/** What checks know where no pixel was looked at. */
export const NOTHING_KNOWN: Knowledge = { facts: NO_FACTS };
