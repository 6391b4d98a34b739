import { readFile } from 'node:fs/promises';
import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import { parseHouseWords } from '@kinkajou/core/maps/houseWords';
import type { HouseWords } from '@kinkajou/core/maps/nameSpans';
import { parseJson } from '@kinkajou/core/parcel/json';

/**
 * Words of one's own house from a JSON file, or from the file that KINKAJOU_WORDS names; none without either.
 */
export async function readWords(path: string | undefined): Promise<HouseWords> {
  const file = path ?? process.env.KINKAJOU_WORDS;
  if (!file) return {};
  let text: string;
  try {
    text = await readFile(file, 'utf8');
  } catch {
    throw new KinkajouError(
      'call.words',
      'this file of words cannot be read',
      { file },
      'Check the spelling.',
    );
  }
  try {
    return parseHouseWords(
      parseJson(text, { file, code: 'words.invalid', hint: 'Mend the file; it is read as JSON.' }),
    );
  } catch (error) {
    throw toKinkajouError(error, 'words.invalid', { file });
  }
}
