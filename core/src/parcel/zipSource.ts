import { basename } from 'node:path';
import type { Readable } from 'node:stream';
import { promisify } from 'node:util';
import { type Entry, open, type ZipFile } from 'yauzl';
import { KinkajouError } from '../errors.ts';
import {
  type FileSource,
  isSystemFile,
  missingFile,
  type SourceFile,
  type SourceNotice,
  safePath,
} from './fileSource.ts';
import { DEFAULT_LIMITS, type Limits, pastLimit } from './limits.ts';

const RATIO_FLOOR = 64 * 1024 * 1024;
const STORED = 0;
const DEFLATED = 8;

/**
 * A zip archive on disk. Only its directory is read on opening; entries are unpacked when asked for.
 * Entries that are encrypted, absolute, leave the archive or use an unknown compression become notices.
 * Throws `zip.broken` for a damaged archive and `limit.*` for one that is too large.
 */
export async function zipSource(
  file: string,
  name = basename(file),
  limits = DEFAULT_LIMITS,
): Promise<FileSource> {
  const zip = await openZip(file, name);
  try {
    const { entries, notices } = await listEntries(zip, name, limits);
    const files: SourceFile[] = [...entries].map(([path, entry]) => ({
      path,
      size: entry.uncompressedSize,
      modified: entry.getLastModDate(),
    }));
    files.sort((a, b) => (a.path < b.path ? -1 : 1));
    return {
      name,
      files,
      notices,
      async read(path) {
        const entry = entries.get(path);
        if (!entry) throw missingFile(name, path);
        return readEntry(zip, entry, path, name);
      },
      stream(path) {
        const entry = entries.get(path);
        if (!entry) throw missingFile(name, path);
        return streamEntry(zip, entry, path, name);
      },
      async close() {
        zip.close();
      },
    };
  } catch (error) {
    zip.close();
    throw error;
  }
}

async function openZip(file: string, name: string): Promise<ZipFile> {
  try {
    return (await promisify<string, object, ZipFile>(open)(file, {
      lazyEntries: true,
      autoClose: false,
      decodeStrings: false,
    })) as ZipFile;
  } catch (error) {
    throw new KinkajouError(
      'zip.broken',
      `this is not a readable zip archive (${(error as Error).message})`,
      { file: name },
      'Pack it again, or drop the files themselves.',
    );
  }
}

function listEntries(zip: ZipFile, name: string, limits: Limits) {
  const entries = new Map<string, Entry>();
  const notices: SourceNotice[] = [];
  let total = 0;
  let packed = 0;
  return new Promise<{ entries: Map<string, Entry>; notices: SourceNotice[] }>((resolve, reject) => {
    if (zip.entryCount > limits.entries) {
      reject(pastLimit('entries', name, zip.entryCount, limits.entries));
      return;
    }
    zip.on('error', (error: Error) => {
      reject(
        new KinkajouError('zip.broken', `the archive's directory is damaged (${error.message})`, {
          file: name,
        }),
      );
    });
    zip.on('end', () => resolve({ entries, notices }));
    zip.on('entry', (entry: Entry) => {
      const written = decodeName(entry);
      if (!written.endsWith('/') && !isSystemFile(written)) {
        total += entry.uncompressedSize;
        packed += entry.compressedSize;
        const fault = entryFault(entry, written, limits);
        if (fault) notices.push(fault);
        else entries.set(safePath(written) as string, entry);
        if (total > limits.totalBytes) return reject(pastLimit('totalBytes', name, total, limits.totalBytes));
        const ratio = total / Math.max(1, packed);
        if (total > RATIO_FLOOR && ratio > limits.expansionRatio) {
          return reject(pastLimit('expansionRatio', name, ratio, limits.expansionRatio));
        }
      }
      zip.readEntry();
    });
    zip.readEntry();
  });
}

function entryFault(entry: Entry, written: string, limits: Limits): SourceNotice | null {
  if (safePath(written) === null) {
    return {
      code: 'zip.path',
      path: written,
      message: 'left out: its path is absolute or leads out of the parcel',
    };
  }
  if (entry.isEncrypted()) {
    return {
      code: 'zip.encrypted',
      path: written,
      message: 'left out: it is encrypted. Pack it without a password',
    };
  }
  if (entry.compressionMethod !== STORED && entry.compressionMethod !== DEFLATED) {
    return {
      code: 'zip.method',
      path: written,
      message: `left out: compression method ${entry.compressionMethod} is not supported. Pack it as deflate`,
    };
  }
  if (entry.uncompressedSize > limits.fileBytes) {
    const { message, hint } = pastLimit('fileBytes', written, entry.uncompressedSize, limits.fileBytes);
    return { code: 'limit.fileBytes', path: written, message: `left out: ${message}. ${hint}` };
  }
  return null;
}

/**
 * Names are UTF-8 when flagged or when they decode as such, else the DOS code page's ASCII part with Latin-1.
 */
function decodeName(entry: Entry): string {
  const raw = entry.fileName as unknown as Buffer;
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(raw);
  } catch {
    return raw.toString('latin1');
  }
}

/** An entry in the pieces in which it is unpacked. Throws `zip.entry` where it cannot be, or its size is false. */
async function* streamEntry(
  zip: ZipFile,
  entry: Entry,
  path: string,
  name: string,
): AsyncGenerator<Uint8Array> {
  const place = { file: path };
  const broken = (error: Error) =>
    new KinkajouError('zip.entry', `this entry of ${name} cannot be unpacked (${error.message})`, place);
  let size = 0;
  try {
    const stream = await promisify<Entry, Readable>(zip.openReadStream.bind(zip))(entry);
    for await (const piece of stream) {
      size += piece.length;
      if (size > entry.uncompressedSize) break;
      yield piece;
    }
  } catch (error) {
    throw broken(error as Error);
  }
  if (size !== entry.uncompressedSize) throw broken(new Error('its size is false'));
}

async function readEntry(zip: ZipFile, entry: Entry, path: string, name: string): Promise<Uint8Array> {
  const out = Buffer.allocUnsafe(entry.uncompressedSize);
  let index = 0;
  for await (const piece of streamEntry(zip, entry, path, name)) {
    out.set(piece, index);
    index += piece.length;
  }
  return out;
}
