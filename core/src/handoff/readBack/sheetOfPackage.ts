import type { Destination } from '../../destinations/profile.ts';
import type { FileSource } from '../../parcel/fileSource.ts';
import type { Sheet } from '../write/sheet.ts';

/** The sheet of a package; null where there is none, or none that tells of its destination. */
export async function sheetOfPackage(files: FileSource): Promise<(Sheet & { profile: Destination }) | null> {
  if (!files.files.some(({ path }) => path === 'handoff.json')) return null;
  try {
    const sheet = JSON.parse(new TextDecoder().decode(await files.read('handoff.json'))) as Sheet;
    return sheet.handoff === 2 && Array.isArray(sheet.models) && sheet.profile
      ? { ...sheet, profile: sheet.profile }
      : null;
  } catch {
    return null;
  }
}
