import type { AssetImage, AssetSource, AssetState, Edit, ParcelImage } from '../asset/asset.ts';
import type { FactsByHash } from '../asset/collectFacts.ts';
import type { MakeRequest } from '../asset/makeMaps.ts';
import type { FileIndex } from '../links/fileIndex.ts';
import type { Candidate } from '../links/rank.ts';
import type { Sidecar } from '../links/sidecars.ts';
import type { NameClass } from '../maps/classifyName.ts';
import type { DetectedMap } from '../maps/detectMaps.ts';
import type { PixelFacts } from '../maps/pixelFacts.ts';
import type { Channel, ChannelName, MapUse, Material } from '../scene/material.ts';
import type { ImageSet } from '../sets/imageSets.ts';
import type { FloatColour } from './floatEncoding.ts';
import type { Settlement } from './settlement.ts';
import type { SlotVerdict } from './slotVerdict.ts';

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
  /** Where the mend needs new images: what is to be made; `mend` is null then. */
  make?: MakeRequest;
  /** A safe mend has one clear outcome and is applied by "mend all safe". */
  safe: boolean;
  mendLabel: string;
  /** Where a person must choose: what there is to choose from, best first. */
  choices?: FindingChoice[];
  /** Where to look. */
  target: { material?: string; channel?: ChannelName; image?: string };
}

/** One answer to a finding that asks. */
export interface FindingChoice {
  /** Stable within the finding. */
  id: string;
  label: string;
  /** Why it may be meant. */
  reason: string;
  /** Files that it would bring in, by path. */
  images: string[];
  /** All that follows from it. */
  edits: Edit[];
}

/** One slot that reads an image, with all that is known of the image. */
export interface MappedSlot {
  material: Material;
  channel: ChannelName;
  content: Channel;
  map: MapUse;
  entry: AssetImage;
  /** Null while the image is missing or cannot be read. */
  file: ParcelImage | null;
  /** Null where the pixels were not looked at. */
  facts: PixelFacts | null;
  /** By name, siblings and pixels; null without a file. */
  detected: DetectedMap | null;
  /** By the words of the name alone. */
  named: NameClass | null;
}

/** What a finding says, without where it belongs. */
export type FindingText = Pick<Finding, 'code' | 'severity' | 'title' | 'message' | 'evidence' | 'mend' | 'make' | 'safe' | 'mendLabel' | 'choices'>;

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
  /** Which sets belong to which materials, and what follows from it; worked out once. */
  settlement(): Settlement;
  /** Float maps in colour slots, judged; worked out once. */
  floats(): readonly FloatColour[];
}

/** One check: looks at the asset and lists what it finds. */
export type Check = (context: FindingContext) => Finding[];

export const SEVERITIES: readonly Severity[] = ['error', 'warning', 'note'];

/** True for what a careful colleague would ask about, or mend first; notes need nobody. */
export function needsPerson({ severity }: Pick<Finding, 'severity'>): boolean {
  return severity !== 'note';
}

/** A finding as reports and receipts list it. */
export interface OpenFinding extends Pick<Finding, 'code' | 'step' | 'severity' | 'key' | 'subject' | 'message' | 'evidence'> {
  mendable: boolean;
}

const LISTED_EVIDENCE = 24;

export function openFinding({ code, step, severity, key, subject, message, evidence, mend, make, choices }: Finding): OpenFinding {
  const mendable = mend !== null || make !== undefined || (choices?.length ?? 0) > 0;
  return { code, step, severity, key, subject, message, mendable, evidence: evidence.slice(0, LISTED_EVIDENCE) };
}
