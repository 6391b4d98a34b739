import { type FactsByHash, NO_FACTS } from '../asset/collectFacts.ts';
import type { HouseWords } from '../maps/nameSpans.ts';

/** What is known beside the asset itself. */
export interface Knowledge {
  /** What pixels say, by content. */
  facts: FactsByHash;
  /** Words of one's own house for channels. */
  house?: HouseWords;
}

export const NOTHING_KNOWN: Knowledge = { facts: NO_FACTS };
