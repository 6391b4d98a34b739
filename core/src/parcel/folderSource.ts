import { readdir, readFile, stat } from 'node:fs/promises';
import { basename, join, relative, sep } from 'node:path';
import { type FileSource, isSystemFile, missingFile, type SourceFile } from './fileSource.ts';
import { DEFAULT_LIMITS, type Limits, pastLimit } from './limits.ts';

/** A folder on disk with everything below it. Links are not followed, so nothing outside is read. */
export async function folderSource(root: string, limits: Limits = DEFAULT_LIMITS): Promise<FileSource> {
  const files: SourceFile[] = [];
  const pending = [root];
  while (pending.length > 0) {
    const folder = pending.pop() as string;
    for (const entry of await readdir(folder, { withFileTypes: true })) {
      const full = join(folder, entry.name);
      const path = relative(root, full).split(sep).join('/');
      if (isSystemFile(path)) continue;
      if (entry.isDirectory()) pending.push(full);
      else if (entry.isFile()) {
        const { size, mtime } = await stat(full);
        files.push({ path, size, modified: mtime });
        if (files.length > limits.entries) throw pastLimit('entries', root, files.length, limits.entries);
      }
    }
  }
  files.sort((a, b) => (a.path < b.path ? -1 : 1));
  const known = new Set(files.map((file) => file.path));
  return {
    name: basename(root),
    files,
    notices: [],
    async read(path) {
      if (!known.has(path)) throw missingFile(root, path);
      return readFile(join(root, path));
    },
    async close() {},
  };
}
