/**
 * Keys of images that a person or rule picked from the parcel, rather than the model having written them:
 * their path behind a prefix that no written path has.
 */
const PICKED = 'parcel:';

/** The key of an image picked by its path in the parcel. */
export function pickedKey(path: string): string {
  return PICKED + path;
}

/** The path of a picked image; null for a key that the model wrote. */
export function pickedPath(key: string): string | null {
  return key.startsWith(PICKED) ? key.slice(PICKED.length) : null;
}
