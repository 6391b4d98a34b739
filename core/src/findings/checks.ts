import { buildFileIndex } from '../links/fileIndex.ts';
import type { AssetSource, AssetState, ParcelImage } from '../asset/asset.ts';
import { alphaInvisible } from './alphaInvisible.ts';
import { type Check, type Finding, SEVERITIES } from './finding.ts';
import { linkMissing } from './linkMissing.ts';
import { linkUnreadable } from './linkUnreadable.ts';
import { readRemark } from './readRemark.ts';
import { slotCandidate } from './slotCandidate.ts';
import { slotPackedWhole } from './slotPackedWhole.ts';

/** Every check, in the order in which people work. A new check is one file and one line here. */
export const CHECKS: readonly Check[] = [readRemark, linkMissing, linkUnreadable, slotPackedWhole, slotCandidate, alphaInvisible];

/** Runs every check. Findings come sorted by severity, then in the order of the checks. */
export function findFindings(source: AssetSource, state: AssetState, images: readonly ParcelImage[]): Finding[] {
  const readable = images.filter((image) => image.info).map((image) => image.path);
  const context = { source, state, images, index: buildFileIndex(readable) };
  return CHECKS.flatMap((check) => check(context)).sort((a, b) => SEVERITIES.indexOf(a.severity) - SEVERITIES.indexOf(b.severity));
}

export interface SeverityCounts {
  error: number;
  warning: number;
  note: number;
}

export function countSeverities(findings: readonly Finding[]): SeverityCounts {
  const counts: SeverityCounts = { error: 0, warning: 0, note: 0 };
  for (const finding of findings) counts[finding.severity] += 1;
  return counts;
}
