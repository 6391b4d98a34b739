import { KinkajouError } from '../errors.ts';

/** An entry of a parcel. */
export interface SourceFile {
  /** Path with forward slashes, relative to the parcel's root, never leaving it. */
  path: string;
  size: number;
  modified: Date | null;
}

/** An entry that was left out, and why. */
export interface SourceNotice {
  code: string;
  path: string;
  message: string;
}

/** Reads the bytes of a file by its path. */
export type ReadFile = (path: string) => Promise<Uint8Array>;

/** Files to read from, wherever they lie: a disk folder, an archive, stored blobs, a test's memory. */
export interface FileSource {
  /** For messages: the folder's or archive's name. */
  readonly name: string;
  readonly files: readonly SourceFile[];
  /** Entries that could not be taken. */
  readonly notices: readonly SourceNotice[];
  /** The bytes of one listed file. Throws `source.missing` for any other path. */
  read(path: string): Promise<Uint8Array>;
  /** The bytes in pieces, where the source can give them so; for files that should not be held whole. */
  stream?(path: string): AsyncIterable<Uint8Array>;
  /** Where a file lies on disk, for sources that are a folder there. */
  locate?(path: string): string;
  close(): Promise<void>;
}

/** A source over bytes in memory. */
export function memorySource(name: string, files: Record<string, Uint8Array>): FileSource {
  return {
    name,
    files: Object.entries(files).map(([path, bytes]) => ({ path, size: bytes.length, modified: null })),
    notices: [],
    async read(path) {
      const bytes = files[path];
      if (!bytes) throw missingFile(name, path);
      return bytes;
    },
    async close() {},
  };
}

/** The error for a path that a source does not have. */
export function missingFile(source: string, path: string): KinkajouError {
  return new KinkajouError('source.missing', `"${path}" is not in ${source}`, { file: path });
}

/**
 * A path as a parcel may hold it, or null when it is absolute, leaves the parcel or is empty.
 * Backslashes count as separators, since archives made elsewhere use them.
 */
export function safePath(path: string): string | null {
  const slashed = path.replaceAll('\\', '/');
  if (slashed.startsWith('/') || /^[A-Za-z]:/.test(slashed) || slashed.includes('\0')) return null;
  const parts = slashed.split('/').filter((part) => part !== '' && part !== '.');
  if (parts.length === 0 || parts.includes('..')) return null;
  return parts.join('/');
}

/** Files that systems leave in archives and that nobody means to send. */
export function isSystemFile(path: string): boolean {
  return /(^|[\\/])(__MACOSX|\.DS_Store|Thumbs\.db|desktop\.ini|\.git)([\\/]|$)|(^|[\\/])\._/i.test(path);
}

/** Types of files that hold models, as extensions. */
export const MODEL_TYPES = ['fbx', 'obj', 'usd', 'usda', 'usdc', 'usdz', 'gltf', 'glb'] as const;

/** Whether a file is an archive of a kind that is not opened. */
export function isOtherArchive(path: string): boolean {
  return /\.(rar|7z|tar|tgz|gz|bz2|xz|zst|sit)$/i.test(path);
}

/** The error for such an archive. */
export function otherArchive(path: string): KinkajouError {
  return new KinkajouError(
    'parcel.archive',
    `archives of type .${extensionOf(path)} are not opened`,
    { file: path },
    'Unpack it and send what was in it, or pack that as zip.',
  );
}

/** The path behind its last slash. */
export function fileName(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}

/** The path before its last slash; '' at the root. */
export function folderOf(path: string): string {
  return path.slice(0, Math.max(0, path.lastIndexOf('/')));
}

/** Lower-case extension without the dot, or ''. */
export function extensionOf(path: string): string {
  const name = fileName(path);
  const dot = name.lastIndexOf('.');
  return dot > 0 ? name.slice(dot + 1).toLowerCase() : '';
}

/** The file name without its last extension; a name that begins with its only dot stays whole. */
export function stemOf(path: string): string {
  const name = fileName(path);
  const dot = name.lastIndexOf('.');
  return dot > 0 ? name.slice(0, dot) : name;
}
