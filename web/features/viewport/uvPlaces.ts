import type { AssetSource } from '@kinkajou/core/asset/asset';

/** Where UV sets are told. */
type UvSource = Pick<AssetSource, 'uvSets' | 'uvPlaces'>;

/** The attribute of a part, from 0, that holds the set of a name; the first for none and for unknown ones. */
export function uvPlace({ uvSets, uvPlaces }: UvSource, name: string | null): number {
  if (name === null) return 0;
  return uvPlaces && Object.hasOwn(uvPlaces, name) ? uvPlaces[name] : Math.max(0, uvSets.indexOf(name));
}

/** Names of the sets by their places: parts may call what stands at one place differently. */
export function uvNames(source: UvSource): string[] {
  const names: string[][] = [];
  for (const name of source.uvSets) {
    const place = uvPlace(source, name);
    names[place] = [...(names[place] ?? []), name];
  }
  return Array.from(names, (list = []) => list.join(', '));
}
