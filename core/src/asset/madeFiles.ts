/** Folder of the parcel under which images that were made from others lie. */
export const MADE_FOLDER = 'made';

/**
 * Whether an image was made here, from delivered ones: no model waits for it, and it is never in anyone's
 * way.
 */
export function isMade(path: string): boolean {
  return path.startsWith(`${MADE_FOLDER}/`) || /(^|\/)converted\//.test(path);
}
