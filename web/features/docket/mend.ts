import type { Edit } from '@kinkajou/core/asset/asset';
import type { Finding } from '@kinkajou/core/findings/finding';
import { toast } from 'sonner';
import type { Bench } from '../bench/useBench.ts';

/** Findings of one kind that have a mend. */
export function alike(findings: readonly Finding[], finding: Finding): Finding[] {
  return findings.filter((other) => other.code === finding.code && other.mend && other.safe === finding.safe);
}

/** Mends every finding of the same kind. */
export function mendAlike(bench: Bench, finding: Finding): void {
  bench.apply(joinLinks(alike(bench.view.findings, finding).map((other) => other.mend as Edit)));
}

/** Mends everything that has one clear outcome. */
export function mendSafe(bench: Bench): void {
  const edits = bench.view.findings.filter((finding) => finding.safe && finding.mend).map((finding) => finding.mend as Edit);
  if (edits.length === 0) toast('Nothing can be mended without a decision.');
  else bench.apply(joinLinks(edits));
}

/** Links made together are one entry of the log and one step of undo. */
export function joinLinks(edits: Edit[]): Edit[] {
  const links = edits.flatMap((edit) => (edit.kind === 'linkImages' ? edit.links : []));
  const others = edits.filter((edit) => edit.kind !== 'linkImages');
  if (links.length === 0) return others;
  const detail = [...new Set(links.map((link) => link.reason))].join('; ');
  return [{ kind: 'linkImages', links, origin: { from: 'evidence', detail } }, ...others];
}
