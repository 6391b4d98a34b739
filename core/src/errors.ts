/** Where in the input something went wrong. Offsets are in bytes, lines count from 1. */
export interface FaultPlace {
  file?: string;
  line?: number;
  offset?: number;
}

/**
 * An error that a person can act on: what happened, where, and what to do about it.
 * `code` is stable and dotted (`zip.encrypted`, `fbx.truncated`).
 */
export class KinkajouError extends Error {
  readonly code: string;
  readonly place: FaultPlace;
  readonly hint: string;

  constructor(code: string, message: string, place: FaultPlace = {}, hint = '') {
    super(message);
    this.name = 'KinkajouError';
    this.code = code;
    this.place = place;
    this.hint = hint;
  }

  /** The whole error in one sentence or two, as shown in the page and on the command line. */
  toText(): string {
    return [describePlace(this.place), `${this.message}.`, this.hint].filter(Boolean).join(' ');
  }

  toJSON() {
    return { code: this.code, message: this.message, place: this.place, hint: this.hint };
  }
}

/** File and line or byte, such as `crate.mtl, line 7:`; '' where neither is known. */
export function describePlace({ file, line, offset }: FaultPlace): string {
  const place = lineOrByte(line, offset);
  if (file && place) return `${file}, ${place}:`;
  if (file) return `${file}:`;
  return place ? `${place}:` : '';
}

function lineOrByte(line: number | undefined, offset: number | undefined) {
  if (line !== undefined) return `line ${line}`;
  return offset !== undefined ? `byte ${offset}` : '';
}

/** A fault in the middle of a file of which the part before was read, with how large that part is. */
export function describeCut({ message, place }: KinkajouError, bytes: Uint8Array): string {
  const { line, offset } = place;
  const before = shareBefore(offset, bytes, line);
  const share =
    before === null || bytes.length === 0
      ? ''
      : `, the first ${Math.floor(Math.min(1, before) * 100)} % of the file`;
  return [describePlace({ line, offset }), `${message}; what stands before it was read${share}`]
    .filter(Boolean)
    .join(' ');
}

const NEWLINE = 10;

function shareBefore(
  offset: number | undefined,
  bytes: Uint8Array<ArrayBufferLike>,
  line: number | undefined,
) {
  if (offset !== undefined) return offset / bytes.length;
  return line !== undefined ? offsetOfLine(bytes, line) / bytes.length : null;
}

function offsetOfLine(bytes: Uint8Array, line: number): number {
  let offset = 0;
  for (let lineNumber = 1; lineNumber < line; lineNumber += 1) {
    const next = bytes.indexOf(NEWLINE, offset);
    if (next < 0) break;
    offset = next + 1;
  }
  return offset;
}

/**
 * Any thrown value as a KinkajouError; unknown ones get the given code and words of ours, with the value as
 * their cause.
 */
export function toKinkajouError(error: unknown, code = 'internal', place: FaultPlace = {}): KinkajouError {
  if (error instanceof KinkajouError) {
    if (error.place.file || !place.file) return error;
    return new KinkajouError(error.code, error.message, { ...place, ...error.place }, error.hint);
  }
  const system = systemFault(error, place);
  if (system) return system;
  const typed = new KinkajouError(
    code,
    'it could not be done, for a reason inside Kinkajou',
    place,
    'Try it with another file, or tell us what you did.',
  );
  typed.cause = error;
  return typed;
}

/** Code, words and remedy by what a disk or the system says. */
const SYSTEM: Record<string, [code: string, message: string, hint: string]> = {
  ENOSPC: ['disk.full', 'the disk is full', 'Make room on it, and try again.'],
  EDQUOT: [
    'disk.full',
    'the room that this account has on the disk is used up',
    'Make room on it, and try again.',
  ],
  EROFS: ['disk.readOnly', 'the disk can only be read', 'Name a place on another disk.'],
  EACCES: [
    'disk.forbidden',
    'this account may not read or write there',
    'Change who may, or name another place.',
  ],
  EPERM: [
    'disk.forbidden',
    'this account may not read or write there',
    'Change who may, or name another place.',
  ],
  ENOENT: ['disk.missing', 'it is not there', 'Check the spelling.'],
  ENOTDIR: ['disk.missing', 'a part of its path is a file and no folder', 'Check the spelling.'],
  EISDIR: ['disk.folder', 'it is a folder, and a file is needed', 'Name a file.'],
  ENAMETOOLONG: ['disk.name', 'its name is longer than the disk allows', 'Give it a shorter one.'],
  EMFILE: ['disk.busy', 'too many files are open', 'Try again.'],
  ENFILE: ['disk.busy', 'too many files are open', 'Try again.'],
  EBUSY: ['disk.busy', 'another program holds it', 'Close it there, and try again.'],
  EIO: ['disk.fault', 'the disk reports a fault', 'Copy the file again, or use another disk.'],
  ERR_FS_FILE_TOO_LARGE: ['disk.tooLarge', 'it is larger than can be read at once', 'Split it.'],
};

/** What the system said, in words; null for anything else. */
export function systemFault(error: unknown, place: FaultPlace = {}): KinkajouError | null {
  const words = SYSTEM[(error as NodeJS.ErrnoException | null)?.code ?? ''];
  if (!words) return null;
  const [code, message, hint] = words;
  const typed = new KinkajouError(code, message, place, hint);
  typed.cause = error;
  return typed;
}
