import { open, stat } from 'node:fs/promises';
import { basename, dirname, resolve } from 'node:path';
import { KinkajouError } from '../errors.ts';
import { extensionOf, type FileSource, MODEL_TYPES } from './fileSource.ts';
import { folderSource } from './folderSource.ts';
import { withInnerZips } from './innerZips.ts';
import { DEFAULT_LIMITS } from './limits.ts';
import { zipSource } from './zipSource.ts';

/** A source and, when a single file was named, the path of that file in it. */
export interface OpenedSource {
  source: FileSource;
  only: string | null;
}

/**
 * Opens a model file (with its folder around it), a folder, of zips too, or a zip archive on disk.
 * Throws `source.missing` when there is nothing at the path.
 */
export async function openSource(path: string, limits = DEFAULT_LIMITS): Promise<OpenedSource> {
  const full = resolve(path);
  const info = await stat(full).catch(() => null);
  if (!info) {
    throw new KinkajouError(
      'source.missing',
      'there is nothing at this path',
      { file: path },
      'Check the spelling.',
    );
  }
  if (info.isDirectory())
    return { source: await openZipsOf(await folderSource(full, { limits }), limits), only: null };
  if (await isZip(full)) {
    const zip = await zipSource(full, basename(full), limits);
    return { source: await withInnerZips(zip, limits), only: null };
  }
  return { source: await folderSource(dirname(full), { limits, partial: true }), only: basename(full) };
}

/**
 * A folder with the zips in it opened: those of images and words, as beside the model that they belong to, and
 * deliveries where nothing but zips lies there. Beside models a zip with one in it may be a copy of theirs.
 */
export async function openZipsOf(
  folder: FileSource,
  limits = DEFAULT_LIMITS,
  room?: string,
): Promise<FileSource> {
  const holdsModel = ({ files }: FileSource) => files.some(({ path }) => MODELS.has(extensionOf(path)));
  const beside = holdsModel(folder);
  return withInnerZips(folder, limits, { wanted: (zip) => !beside || !holdsModel(zip), room });
}

const MODELS: ReadonlySet<string> = new Set(MODEL_TYPES);

async function isZip(path: string): Promise<boolean> {
  if (extensionOf(path) === 'usdz') return false;
  if (extensionOf(path) === 'zip') return true;
  const handle = await open(path);
  const head = Buffer.alloc(4);
  await handle.read(head, 0, 4, 0).finally(() => handle.close());
  return head[0] === 0x50 && head[1] === 0x4b && head[2] === 3 && head[3] === 4;
}
