import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
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
export function pathWithin(archive: string, path: string): string {
  return [folderOf(archive), stemOf(archive), path].filter(Boolean).join('/');
}

const CLOSED = 'left closed, since it holds a model of its own beside others; name it to have it opened';

/** What is told of a file of a zip whose place is taken. */
export function takenPlace(path: string): SourceNotice {
  return { code: 'zip.twice', path, message: 'left out: another file lies in its place' };
}

/** Where a zip lies on disk: where its source has it, else written into a folder. */
async function spooled(from: FileSource, path: string, folder: () => Promise<string>): Promise<string> {
  if (from.locate) return from.locate(path);
  const target = join(await folder(), `${randomUUID()}.zip`);
  if (from.stream) await pipeline(from.stream(path), createWriteStream(target));
  else await writeFile(target, await from.read(path));
  return target;
}

/** Where a file is read from. */
interface Place {
  source: FileSource;
  path: string;
  size: number;
}

/** How zips within a source are opened. */
export interface InnerZipOptions {
  /** Whether one of the source itself is opened, by what is in it. */
  wanted?(inner: FileSource): boolean;
  /** Folder in which those that do not lie on disk are written down until the source is closed. */
  room?: string;
}

/**
 * A source in which zips are folders: what `maps.zip` holds lies in `maps/`. A zip of the source itself that is
 * not wanted, by what is in it, stays a file. One that cannot be opened becomes a notice, and so does a file
 * of which another lies in its place. Throws `limit.*` where all that is within goes past one.
 */
export async function withInnerZips(
  source: FileSource,
  limits = DEFAULT_LIMITS,
  { wanted = () => true, room = tmpdir() }: InnerZipOptions = {},
): Promise<FileSource> {
  if (!source.files.some(({ path }) => isZip(path))) return source;
  const made: Promise<string>[] = [];
  const folder = () => (made[0] ??= mkdtemp(join(room, 'kinkajou-zip-')));
  const opened = [source];
  const places = new Map<string, Place>();
  const files: SourceFile[] = [];
  const notices: SourceNotice[] = [...source.notices];
  const close = async () => {
    await Promise.all(opened.map((one) => one.close()));
    for (const one of made) await rm(await one, { recursive: true, force: true });
  };
  const add = async (from: FileSource, place: (path: string) => string, depth: number) => {
    const isInner = ({ path }: SourceFile) => depth < INNER_DEPTH && isZip(path);
    // What lies there already stays.
    for (const file of from.files.filter((one) => !isInner(one))) {
      const path = place(file.path);
      const other = places.get(path);
      if (other) {
        if (other.size !== file.size) notices.push(takenPlace(path));
        continue;
      }
      places.set(path, { source: from, path: file.path, size: file.size });
      files.push({ ...file, path });
    }
    for (const file of from.files.filter(isInner)) {
      const path = place(file.path);
      try {
        const inner = await zipSource(await spooled(from, file.path, folder), path, limits);
        opened.push(inner);
        if (depth === 0 && !wanted(inner)) {
          places.set(path, { source: from, path: file.path, size: file.size });
          files.push(file);
          notices.push({ code: 'zip.closed', path, message: CLOSED });
          continue;
        }
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
    stream(path) {
      const place = places.get(path);
      if (!place) throw missingFile(source.name, path);
      return place.source.stream?.(place.path) ?? whole(place.source, place.path);
    },
    close,
  };
}

async function* whole(source: FileSource, path: string): AsyncGenerator<Uint8Array> {
  yield await source.read(path);
}

function isZip(path: string): boolean {
  return extensionOf(path) === 'zip';
}
