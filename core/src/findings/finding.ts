import type { Edit } from '../asset/asset.ts';
import type { MakeRequest } from '../asset/makeMaps.ts';
import type { ChannelName } from '../scene/material.ts';

/** An `error` shows, a `warning` may show at some destinations, a `note` is for the careful. */
export type Severity = 'error' | 'warning' | 'note';
/** Where on the bench a finding is dealt with. */
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
  target: { material?: string; channel?: ChannelName; image?: string; part?: string };
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

/** What a finding says, without where it belongs. */
export type FindingText = Pick<
  Finding,
  'code' | 'severity' | 'title' | 'message' | 'evidence' | 'mend' | 'make' | 'safe' | 'mendLabel' | 'choices'
>;

/** Severities, the worst first. */
export const SEVERITIES: readonly Severity[] = ['error', 'warning', 'note'];

/** True for what a careful colleague would ask about, or mend first; notes need nobody. */
export function needsPerson({ severity }: Pick<Finding, 'severity'>): boolean {
  return severity !== 'note';
}

/** A finding as reports and receipts list it. */
export interface OpenFinding
  extends Pick<Finding, 'code' | 'step' | 'severity' | 'key' | 'subject' | 'message' | 'evidence'> {
  mendable: boolean;
}

const LISTED_EVIDENCE = 24;

/** A finding that nothing was done about yet, from what its check says. */
export function openFinding({
  code,
  step,
  severity,
  key,
  subject,
  message,
  evidence,
  mend,
  make,
  choices,
}: Finding): OpenFinding {
  const mendable = mend !== null || make !== undefined || (choices?.length ?? 0) > 0;
  return {
    code,
    step,
    severity,
    key,
    subject,
    message,
    mendable,
    evidence: evidence.slice(0, LISTED_EVIDENCE),
  };
}
