/**
 * Where a file lies. Paths are how state, edits and JSON name it: a parcel's own path as it is, carried
 * images under `embedded/`, those of search folders under `search/N/`, those of other parcels under
 * `parcels/ID/`.
 */
export type FilePlace =
  | { in: 'parcel'; path: string }
  | { in: 'model'; path: string }
  | { in: 'searchFolder'; folder: number; path: string }
  | { in: 'otherParcel'; parcel: string; path: string };

const SEARCH = /^search\/(\d+)\/(.+)$/;
const OTHER = /^parcels\/([0-9a-f-]{36})\/(.+)$/;
const CARRIED = 'embedded/';

/** Reads a path as a place. */
export function placeOf(path: string): FilePlace {
  const search = SEARCH.exec(path);
  if (search) return { in: 'searchFolder', folder: Number(search[1]), path: search[2] };
  const other = OTHER.exec(path);
  if (other) return { in: 'otherParcel', parcel: other[1], path: other[2] };
  if (path.startsWith(CARRIED)) return { in: 'model', path: path.slice(CARRIED.length) };
  return { in: 'parcel', path };
}

/** Writes a place as a path. */
export function pathOf(place: FilePlace): string {
  switch (place.in) {
    case 'searchFolder':
      return `search/${place.folder}/${place.path}`;
    case 'otherParcel':
      return `parcels/${place.parcel}/${place.path}`;
    case 'model':
      return CARRIED + place.path;
    case 'parcel':
      return place.path;
  }
}

/** Whether a file is no part of the asset's own parcel yet: one of a search folder or of another parcel. */
export function isElsewhere(path: string): boolean {
  const { in: where } = placeOf(path);
  return where === 'searchFolder' || where === 'otherParcel';
}
