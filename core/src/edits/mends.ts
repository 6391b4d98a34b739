import type { Edit } from '../asset/asset.ts';
import type { MakeRequest } from '../asset/makeMaps.ts';
import type { Finding } from '../findings/finding.ts';
import { joinLinks } from './linkEdits.ts';

/** Whether a finding can be mended without a person's own choice: by an edit, or by making new images. */
export function hasMend({ mend, make }: Pick<Finding, 'mend' | 'make'>): boolean {
  return mend !== null || make !== undefined;
}

/** Findings of one kind and one safety that have a mend. */
export function sameKindWithMend(findings: readonly Finding[], finding: Finding): Finding[] {
  return findings.filter(
    (other) => other.code === finding.code && hasMend(other) && other.safe === finding.safe,
  );
}

/**
 * What mends these findings together: edits, all links as one of them, and one request for all materials that
 * want the same.
 */
export function mendsOf(findings: readonly Pick<Finding, 'mend' | 'make'>[]): {
  edits: Edit[];
  makes: MakeRequest[];
} {
  const edits = joinLinks(findings.flatMap(({ mend }) => (mend ? [mend] : [])));
  const makes = new Map<string, MakeRequest>();
  for (const { make } of findings) {
    if (!make) continue;
    const { materials, recipe, params } = make;
    const key = JSON.stringify([recipe, params]);
    makes.set(key, {
      recipe,
      params,
      materials: [...new Set([...(makes.get(key)?.materials ?? []), ...materials])],
    });
  }
  return { edits, makes: [...makes.values()] };
}
