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

/** Any thrown value as a KinkajouError; unknown ones keep their message under the given code. */
export function toKinkajouError(error: unknown, code = 'internal', place: FaultPlace = {}): KinkajouError {
  if (error instanceof KinkajouError) {
    if (error.place.file || !place.file) return error;
    return new KinkajouError(error.code, error.message, { ...place, ...error.place }, error.hint);
  }
  const message = error instanceof Error ? error.message : String(error);
  return new KinkajouError(code, message, place);
}
