import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { KinkajouError } from '../errors.ts';
import {
  extensionOf,
  type FileSource,
  folderOf,
  missingFile,
  type SourceFile,
  type SourceNotice,
  stemOf,
} from './fileSource.ts';
import { DEFAULT_LIMITS, pastLimit } from './limits.ts';
import { zipSource } from './zipSource.ts';

/** Zips within zips are opened so many deep. */
const INNER_DEPTH = 3;

/** Where an entry of a zip lies among the files around that zip: in a folder of the zip's name. */
function pathWithin(archive: string, path: string): string {
  return [folderOf(archive), stemOf(archive), path].filter(Boolean).join('/');
}

/**
 * A source in which zips are folders: what `maps.zip` holds lies in `maps/`. A zip that cannot be opened
 * becomes a notice. Throws `limit.*` where all that is within goes past one.
 */
export async function withInnerZips(source: FileSource, limits = DEFAULT_LIMITS): Promise<FileSource> {
  if (!source.files.some(({ path }) => isZip(path))) return source;
  const folder = await mkdtemp(join(tmpdir(), 'kinkajou-zip-'));
  const opened = [source];
  const places = new Map<string, { source: FileSource; path: string }>();
  const files: SourceFile[] = [];
  const notices: SourceNotice[] = [...source.notices];
  const close = async () => {
    await Promise.all(opened.map((one) => one.close()));
    await rm(folder, { recursive: true, force: true });
  };
  const add = async (from: FileSource, place: (path: string) => string, depth: number) => {
    const isInner = ({ path }: SourceFile) => depth < INNER_DEPTH && isZip(path);
    // What lies there already stays.
    for (const file of from.files.filter((one) => !isInner(one))) {
      const path = place(file.path);
      if (places.has(path)) continue;
      places.set(path, { source: from, path: file.path });
      files.push({ ...file, path });
    }
    for (const file of from.files.filter(isInner)) {
      const path = place(file.path);
      try {
        const spooled = join(folder, `${opened.length}.zip`);
        await writeFile(spooled, await from.read(file.path));
        const inner = await zipSource(spooled, path, limits);
        opened.push(inner);
        notices.push(...inner.notices.map((one) => ({ ...one, path: pathWithin(path, one.path) })));
        await add(inner, (entry) => pathWithin(path, entry), depth + 1);
      } catch (error) {
        if (!(error instanceof KinkajouError) || error.code.startsWith('limit.')) throw error;
        notices.push({ code: error.code, path, message: `left out: ${error.message}` });
      }
    }
    const bytes = files.reduce((sum, { size }) => sum + size, 0);
    if (files.length > limits.entries) throw pastLimit('entries', source.name, files.length, limits.entries);
    if (bytes > limits.totalBytes) throw pastLimit('totalBytes', source.name, bytes, limits.totalBytes);
  };
  try {
    await add(source, (path) => path, 0);
  } catch (error) {
    await close();
    throw error;
  }
  return {
    name: source.name,
    files: files.sort((a, b) => (a.path < b.path ? -1 : 1)),
    notices,
    async read(path) {
      const place = places.get(path);
      if (!place) throw missingFile(source.name, path);
      return place.source.read(place.path);
    },
    close,
  };
}

function isZip(path: string): boolean {
  return extensionOf(path) === 'zip';
}
