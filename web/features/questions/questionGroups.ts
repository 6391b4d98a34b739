import type { QuestionGroup } from '@/server/services/questions';
import { plural } from '@/ui/format';

/** The questions of some assets alone, the biggest first; null for all of them. */
export function overAssets(
  groups: readonly QuestionGroup[],
  assets: ReadonlySet<string> | null,
): QuestionGroup[] {
  if (assets === null) return [...groups];
  return groups
    .map((group) => ({ ...group, members: group.members.filter(({ asset }) => assets.has(asset)) }))
    .filter(({ members }) => members.length > 0)
    .sort((a, b) => b.members.length - a.members.length);
}

/** What an answer does, before it is given. */
export function settles({ members }: Pick<QuestionGroup, 'members'>): string {
  const assets = new Set(members.map(({ asset }) => asset)).size;
  return assets === members.length
    ? `settles ${plural(assets, 'asset')}`
    : `settles ${members.length} in ${plural(assets, 'asset')}`;
}
