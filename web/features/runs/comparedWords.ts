import type { ComparedPackage } from '@/server/wire/compared';
import { plural } from '@/ui/format';

/** How the packages of an asset stand to it, one sentence a destination. */
export function comparedWords(compared: readonly ComparedPackage[]): string[] {
  if (compared.length === 0) return ['there is no package to compare with'];
  return compared.map(({ destination, verdict, differences, reason }) => {
    if (verdict === 'unreadable') return `${destination}: ${reason ?? 'it cannot be read'}`;
    if (verdict === 'changed') return `${destination}: the asset was changed since`;
    return verdict === 'same'
      ? `${destination}: as the asset is`
      : `${destination}: ${plural(differences, 'difference')}`;
  });
}
