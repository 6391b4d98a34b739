import type { AssetImage, AssetSource, AssetState, ParcelImage } from '../asset/asset.ts';
import type { FactsByHash } from '../asset/collectFacts.ts';
import type { Part } from '../asset/parts.ts';
import type { FileIndex } from '../links/fileIndex.ts';
import type { Candidate } from '../links/rank.ts';
import type { Sidecar } from '../links/sidecars.ts';
import type { NameClass } from '../maps/classifyName.ts';
import type { DetectedMap } from '../maps/detectMaps.ts';
import type { PixelFacts } from '../maps/pixelFacts.ts';
import type { ImageSet } from '../sets/imageSet.ts';
import type { FloatColour } from './colour/floatEncoding.ts';
import type { Finding } from './finding.ts';
import type { MappedSlot } from './slots/mappedSlot.ts';
import type { Settlement } from './slots/settlement.ts';
import type { SlotVerdict } from './slots/slotVerdict.ts';

/** What the checks share: the asset, and what was worked out of it once. */
export interface FindingContext {
  source: AssetSource;
  state: AssetState;
  images: readonly ParcelImage[];
  /** Those that the model may call its own. */
  own: readonly ParcelImage[];
  index: FileIndex;
  facts: FactsByHash;
  /** Every own or used image, by path. */
  detected: ReadonlyMap<string, DetectedMap>;
  /** The same by the words of their names alone. */
  named: ReadonlyMap<string, NameClass>;
  sidecars: readonly Sidecar[];
  slots: readonly MappedSlot[];
  /** What is wrong with what each slot reads; worked out once. */
  verdictOf(slot: MappedSlot): SlotVerdict | null;
  /** Files that the written path of an image may mean, best first; ranked once. */
  candidatesOf(image: AssetImage): readonly Candidate[];
  /** The file that an image of the state is, or plainly will be by its name; null while it is missing. */
  resolvedPath(key: string): string | null;
  /** What the pixels of a file say; null where they were not looked at. */
  factsOf(path: string): PixelFacts | null;
  /** Images as sets; worked out once. */
  sets(): readonly ImageSet[];
  /** The set that an image belongs to, whether it is used of it or gave way to another; undefined for none. */
  setOf(path: string | undefined): ImageSet | undefined;
  /** Which sets belong to which materials, and what follows from it; worked out once. */
  settlement(): Settlement;
  /** Float maps in colour slots, judged; worked out once. */
  floats(): readonly FloatColour[];
  /** Parts as edits have left them; worked out once. */
  parts(): readonly Part[];
}

/** One check: looks at the asset and lists what it finds. */
export type Check = (context: FindingContext) => Finding[];
