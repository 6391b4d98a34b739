import type { Edit } from '@kinkajou/core/asset/asset';
import type { MakeRequest } from '@kinkajou/core/asset/makeMaps';
import type { Finding } from '@kinkajou/core/findings/finding';
import { toast } from 'sonner';
import type { Bench } from '../bench/useBench.ts';

/** Whether a finding can be mended without a person's own choice: by an edit, or by making new images. */
export function hasMend({ mend, make }: Finding): boolean {
  return mend !== null || make !== undefined;
}

/** Findings of one kind that have a mend. */
export function alike(findings: readonly Finding[], finding: Finding): Finding[] {
  return findings.filter((other) => other.code === finding.code && hasMend(other) && other.safe === finding.safe);
}

export function mendOne(bench: Bench, finding: Finding): void {
  mendAll(bench, [finding]);
}

/** Mends every finding of the same kind. */
export function mendAlike(bench: Bench, finding: Finding): void {
  mendAll(bench, alike(bench.view.findings, finding));
}

/** Mends everything that has one clear outcome. */
export function mendSafe(bench: Bench): void {
  const safe = bench.view.findings.filter((finding) => finding.safe && hasMend(finding));
  if (safe.length === 0) toast('Nothing can be mended without a decision.');
  else mendAll(bench, safe);
}

function mendAll(bench: Bench, findings: readonly Finding[]): void {
  bench.apply(joinLinks(findings.flatMap(({ mend }) => (mend ? [mend] : []))));
  for (const request of joinMakes(findings.flatMap(({ make }) => (make ? [make] : [])))) bench.make(request);
}

/** One job for all materials that want the same. */
function joinMakes(requests: readonly MakeRequest[]): MakeRequest[] {
  const joined = new Map<string, MakeRequest>();
  for (const { materials, recipe, params } of requests) {
    const key = JSON.stringify([recipe, params]);
    joined.set(key, { recipe, params, materials: [...new Set([...(joined.get(key)?.materials ?? []), ...materials])] });
  }
  return [...joined.values()];
}

/** Links made together are one entry of the log and one step of undo. */
export function joinLinks(edits: Edit[]): Edit[] {
  const links = edits.flatMap((edit) => (edit.kind === 'linkImages' ? edit.links : []));
  const others = edits.filter((edit) => edit.kind !== 'linkImages');
  if (links.length === 0) return others;
  const detail = [...new Set(links.map((link) => link.reason))].join('; ');
  return [{ kind: 'linkImages', links, origin: { from: 'evidence', detail } }, ...others];
}
