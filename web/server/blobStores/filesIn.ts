import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';

/** A file below a folder of the store. */
export interface StoredFile {
  path: string;
  name: string;
  size: number;
  modified: number;
}

/** Every file below a folder, with size and time; none where there is no folder. */
export async function* filesIn(folder: string): AsyncGenerator<StoredFile> {
  const entries = await readdir(folder, { withFileTypes: true }).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return [];
    throw error;
  });
  for (const entry of entries) {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) yield* filesIn(path);
    else {
      // Another process may have taken it meanwhile.
      const found = await stat(path).catch(() => null);
      if (found) yield { path, name: entry.name, size: found.size, modified: found.mtimeMs };
    }
  }
}
