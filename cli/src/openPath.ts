import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import { listModels, noModelIn, type OpenAsset, openAsset } from '@kinkajou/core/inspect';
import { combineSources } from '@kinkajou/core/parcel/combineSources';
import type { FileSource } from '@kinkajou/core/parcel/fileSource';
import { folderSource } from '@kinkajou/core/parcel/folderSource';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { openSource } from '@kinkajou/core/parcel/openSource';
import type { Output } from './output.ts';

/** What came of each model below a path. */
export interface Used<T> {
  results: T[];
  /** Models that could not be read; each was told about. */
  unreadable: number;
}

/**
 * Opens every model at a path (one file, a folder or a zip) and hands each to `use`; sources are closed
 * afterwards. Of several models, those that can be read are used and the others told about; when none can,
 * the first error is thrown.
 */
export async function withAssets<T>(
  path: string,
  search: string[],
  output: Output,
  use: (asset: OpenAsset) => Promise<T>,
): Promise<Used<T>> {
  const limits = limitsFromEnvironment();
  const opened = await openSource(path, limits);
  const further: FileSource[] = [];
  for (const folder of search) further.push(await openSearch(folder));
  const source = combineSources(opened.source, further);
  try {
    for (const notice of source.notices) output.message(`${notice.path}: ${notice.message}.`);
    const models = opened.only ? [opened.only] : listModels(opened.source);
    if (opened.source.files.length === 0)
      throw new KinkajouError(
        'parcel.empty',
        'there are no files in it',
        { file: path },
        'Pack the model with its images.',
      );
    if (models.length === 0) throw noModelIn(path, opened.source.files);
    const results: T[] = [];
    const faults: KinkajouError[] = [];
    for (const model of models) {
      try {
        results.push(await use(await openAsset(source, model, limits)));
      } catch (error) {
        if (!(error instanceof KinkajouError)) throw error;
        faults.push(toKinkajouError(error, error.code, { file: model }));
      }
    }
    if (results.length === 0) throw faults[0];
    for (const fault of faults) output.message(fault.toText());
    return { results, unreadable: faults.length };
  } finally {
    await source.close();
  }
}

async function openSearch(folder: string): Promise<FileSource> {
  try {
    return await folderSource(folder, { limits: limitsFromEnvironment() });
  } catch (error) {
    if (error instanceof KinkajouError) throw error;
    throw new KinkajouError(
      'search.missing',
      'this search folder cannot be read',
      { file: folder },
      'Check the spelling.',
    );
  }
}
