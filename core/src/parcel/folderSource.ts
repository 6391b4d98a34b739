import { createReadStream, type Dirent, promises as disk } from 'node:fs';
import { basename, join, relative, sep } from 'node:path';
import { systemFault } from '../errors.ts';
import {
  type FileSource,
  isSystemFile,
  missingFile,
  type SourceFile,
  type SourceNotice,
} from './fileSource.ts';
import { DEFAULT_LIMITS, type Limits, pastLimit } from './limits.ts';

/** Bytes per piece when a file is streamed. */
const STREAM_PIECE = 1 << 20;

/** Bounds on the folder that is read. */
export interface FolderOptions {
  limits?: Limits;
  /**
   * Stop at the limit of entries with a notice instead of failing, for folders that were not named
   * themselves.
   */
  partial?: boolean;
}

/** What lies in a folder. One below the root that may not be read is told, and the rest goes on. */
async function entriesOf(folder: string, root: string, notices: SourceNotice[]): Promise<Dirent[]> {
  try {
    return await disk.readdir(folder, { withFileTypes: true });
  } catch (error) {
    const fault = systemFault(error, { file: folder });
    if (folder === root || !fault) throw fault ?? error;
    notices.push({
      code: fault.code,
      path: relative(root, folder).split(sep).join('/'),
      message: `the folder is left out: ${fault.message}`,
    });
    return [];
  }
}

/** A folder on disk with everything below it. Links are not followed, so nothing outside is read. */
export async function folderSource(
  root: string,
  { limits = DEFAULT_LIMITS, partial = false }: FolderOptions = {},
): Promise<FileSource> {
  const files: SourceFile[] = [];
  const notices: SourceNotice[] = [];
  const pending = [root];
  walk: while (pending.length > 0) {
    const folder = pending.shift() as string;
    for (const entry of await entriesOf(folder, root, notices)) {
      const full = join(folder, entry.name);
      const path = relative(root, full).split(sep).join('/');
      if (isSystemFile(path)) continue;
      if (entry.isDirectory()) pending.push(full);
      else if (entry.isFile()) {
        const { size, mtime } = await disk.stat(full);
        files.push({ path, size, modified: mtime });
        if (files.length <= limits.entries) continue;
        const fault = pastLimit('entries', root, files.length, limits.entries);
        if (!partial) throw fault;
        notices.push({
          code: fault.code,
          path: root,
          message: `only the first ${limits.entries} files were looked at`,
        });
        break walk;
      }
    }
  }
  files.sort((a, b) => (a.path < b.path ? -1 : 1));
  const existing = new Set(files.map((file) => file.path));
  return {
    name: basename(root),
    files,
    notices,
    async read(path) {
      if (!existing.has(path)) throw missingFile(root, path);
      return disk.readFile(join(root, path));
    },
    stream(path) {
      if (!existing.has(path)) throw missingFile(root, path);
      return createReadStream(join(root, path), { highWaterMark: STREAM_PIECE });
    },
    locate(path) {
      if (!existing.has(path)) throw missingFile(root, path);
      return join(root, path);
    },
    async close() {},
  };
}
