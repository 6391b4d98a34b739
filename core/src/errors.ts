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

export function describePlace({ file, line, offset }: FaultPlace): string {
  const place = line !== undefined ? `line ${line}` : offset !== undefined ? `byte ${offset}` : '';
  if (file && place) return `${file}, ${place}:`;
  if (file) return `${file}:`;
  return place ? `${place}:` : '';
}

/** A fault in the middle of a file of which the part before was read, with how large that part is. */
export function describeCut({ message, place }: KinkajouError, bytes: Uint8Array): string {
  const { line, offset } = place;
  const before = offset !== undefined ? offset / bytes.length : line !== undefined ? offsetOfLine(bytes, line) / bytes.length : null;
  const share = before === null || bytes.length === 0 ? '' : `, the first ${Math.floor(Math.min(1, before) * 100)} % of the file`;
  return [describePlace({ line, offset }), `${message}; what stands before it was read${share}`].filter(Boolean).join(' ');
}

const NEWLINE = 10;

function offsetOfLine(bytes: Uint8Array, line: number): number {
  let offset = 0;
  for (let found = 1; found < line; found += 1) {
    const next = bytes.indexOf(NEWLINE, offset);
    if (next < 0) break;
    offset = next + 1;
  }
  return offset;
}

/** Any thrown value as a KinkajouError; unknown ones keep their message under the given code. */
export function toKinkajouError(error: unknown, code = 'internal', place: FaultPlace = {}): KinkajouError {
  if (error instanceof KinkajouError) {
    if (error.place.file || !place.file) return error;
    return new KinkajouError(error.code, error.message, { ...place, ...error.place }, error.hint);
  }
  const message = error instanceof Error ? error.message : String(error);
  return new KinkajouError(code, message, place);
}
