import type { RunOutcome } from '@/server/services/runs';
import { plural } from '@/ui/format';

type Compared = NonNullable<RunOutcome['compared']>;

/** How the packages of an asset stand to it, one sentence a destination. */
export function comparedWords(compared: Compared): string[] {
  if (compared.length === 0) return ['there is no package to compare with'];
  return compared.map(({ destination, verdict, differences, reason }) => {
    if (verdict === 'unreadable') return `${destination}: ${reason ?? 'it cannot be read'}`;
    if (verdict === 'changed') return `${destination}: the asset was changed since`;
    return verdict === 'same' ? `${destination}: as the asset is` : `${destination}: ${plural(differences, 'difference')}`;
  });
}

/** Whether a person has something to look at. */
export function needsLook(compared: Compared): boolean {
  return compared.length === 0 || compared.some(({ verdict }) => verdict !== 'same');
}
