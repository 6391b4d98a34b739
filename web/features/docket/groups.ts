import type { Finding, Step } from '@kinkajou/core/findings/finding';

/** All findings of one kind: one card. */
export interface FindingGroup {
  code: string;
  title: string;
  /** Of the worst. */
  severity: Finding['severity'];
  findings: Finding[];
}

/**
 * One group per kind, in the order in which the worst of each comes; of one step alone where that is wanted.
 */
export function groupsOf(findings: readonly Finding[], step: Step | null = null): FindingGroup[] {
  const groups = new Map<string, FindingGroup>();
  for (const finding of findings) {
    if (step !== null && finding.step !== step) continue;
    const { code, title, severity } = finding;
    const group = groups.get(code) ?? { code, title, severity, findings: [] };
    group.findings.push(finding);
    groups.set(code, group);
  }
  return [...groups.values()];
}

/** Findings in the order in which the docket shows them, for the keys that walk through them. */
export function docketOrder(findings: readonly Finding[], step: Step | null = null): Finding[] {
  return groupsOf(findings, step).flatMap((group) => group.findings);
}

/** Places of a kind that are shown while its card is folded. */
const SHOWN = 4;

/**
 * Places that a card shows: the first few, and the one in hand wherever it stands; all where so few are left
 * that a fold would hide nothing.
 */
export function shownPlaces(
  findings: readonly Finding[],
  { open, focused }: { open: boolean; focused: string | null },
): Finding[] {
  if (open || findings.length <= SHOWN + 1) return [...findings];
  return findings.filter(({ key }, i) => i < SHOWN || key === focused);
}
