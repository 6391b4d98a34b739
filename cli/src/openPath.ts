import { KinkajouError } from '@kinkajou/core/errors';
import { listModels, type OpenAsset, openAsset } from '@kinkajou/core/inspect';
import { combineSources } from '@kinkajou/core/parcel/combineSources';
import type { FileSource } from '@kinkajou/core/parcel/fileSource';
import { folderSource } from '@kinkajou/core/parcel/folderSource';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { openSource } from '@kinkajou/core/parcel/openSource';
import type { Output } from './output.ts';

/** Opens every model at a path (one file, a folder or a zip) and hands each to `use`; sources are closed afterwards. */
export async function withAssets<T>(path: string, search: string[], output: Output, use: (asset: OpenAsset) => Promise<T>): Promise<T[]> {
  const limits = limitsFromEnvironment();
  const opened = await openSource(path, limits);
  const further: FileSource[] = [];
  for (const folder of search) further.push(await openSearch(folder));
  const source = combineSources(opened.source, further);
  try {
    for (const notice of source.notices) output.message(`${notice.path}: ${notice.message}.`);
    const models = opened.only ? [opened.only] : listModels(opened.source);
    if (opened.source.files.length === 0)
      throw new KinkajouError('parcel.empty', 'there are no files in it', { file: path }, 'Pack the model with its images.');
    if (models.length === 0) throw new KinkajouError('parcel.noModel', 'there is no model in it', { file: path }, 'Add an FBX or OBJ file.');
    const results: T[] = [];
    for (const model of models) results.push(await use(await openAsset(source, model, limits)));
    return results;
  } finally {
    await source.close();
  }
}

async function openSearch(folder: string): Promise<FileSource> {
  try {
    return await folderSource(folder, { limits: limitsFromEnvironment() });
  } catch (error) {
    if (error instanceof KinkajouError) throw error;
    throw new KinkajouError('search.missing', 'this search folder cannot be read', { file: folder }, 'Check the spelling.');
  }
}
