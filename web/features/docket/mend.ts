import { hasMend, mendsOf, sameKindWithMend } from '@kinkajou/core/edits/mends';
import type { Finding } from '@kinkajou/core/findings/finding';
import { toast } from 'sonner';
import type { Bench } from '../bench/useBench.ts';

/** Takes the mend of one finding. */
export function mendOne(bench: Bench, finding: Finding): void {
  mendAll(bench, [finding]);
}

/** Mends every finding of the same kind. */
export function mendSameKind(bench: Bench, finding: Finding): void {
  mendAll(bench, sameKindWithMend(bench.view.findings, finding));
}

/** Mends everything that has one clear outcome. */
export function mendSafe(bench: Bench): void {
  const safe = bench.view.findings.filter((finding) => finding.safe && hasMend(finding));
  if (safe.length === 0) toast('Nothing can be mended without a decision.');
  else mendAll(bench, safe);
}

function mendAll(bench: Bench, findings: readonly Finding[]): void {
  const { edits, makes } = mendsOf(findings);
  bench.apply(edits);
  for (const request of makes) bench.make(request);
}
