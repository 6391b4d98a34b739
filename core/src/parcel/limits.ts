import { KinkajouError } from '../errors.ts';

/** Bounds on what a parcel may hold. Every one is a setting; going past one is an error that names it. */
export interface Limits {
  /** Bytes of one file, packed or not. */
  fileBytes: number;
  /** Entries in an archive or files in a folder. */
  entries: number;
  /** Bytes of all files together, unpacked. */
  totalBytes: number;
  /** Unpacked bytes per packed byte, looked at once an archive unpacks to more than 64 MiB. */
  expansionRatio: number;
  /** Width times height of one image. */
  pixels: number;
  /** Bytes that the pixels of one image take once decoded. */
  imageBytes: number;
  /** Polygons of one model. */
  polygons: number;
  /** Depth of nested records in a model file. */
  nesting: number;
  /**
   * Seconds that a decoder or reader may be silent over one file, and one more for each megabyte or million
   * pixels.
   */
  seconds: number;
  /** Megabytes of memory that reading one file may take. */
  megabytes: number;
}

const GIB = 1024 ** 3;

/** Bounds where no setting says otherwise. */
export const DEFAULT_LIMITS: Limits = {
  fileBytes: 4 * GIB,
  entries: 20_000,
  totalBytes: 16 * GIB,
  expansionRatio: 200,
  pixels: 16_384 * 16_384,
  imageBytes: 1.5 * GIB,
  polygons: 50_000_000,
  nesting: 512,
  seconds: 30,
  megabytes: 6144,
};

/** Limits from the environment: `KINKAJOU_LIMIT_ENTRIES=50000` and so on, over the defaults. */
export function limitsFromEnvironment(env: Record<string, string | undefined> = process.env): Limits {
  const limits = { ...DEFAULT_LIMITS };
  for (const name of Object.keys(limits) as (keyof Limits)[]) {
    const variable = limitVariable(name);
    const text = env[variable];
    if (text === undefined) continue;
    const value = Number(text);
    if (!(value > 0))
      throw new KinkajouError('limits.value', `${variable} is "${text}", not a number above 0`);
    limits[name] = value;
  }
  return limits;
}

/** Name of the environment variable that sets a bound, such as `KINKAJOU_LIMIT_FILE_BYTES`. */
export function limitVariable(name: keyof Limits): string {
  return `KINKAJOU_LIMIT_${name.replace(/[A-Z]/g, '_$&').toUpperCase()}`;
}

/** The error for going past a limit: it names the limit, the file and the way to raise it. */
export function pastLimit(name: keyof Limits, file: string, actual: number, limit: number): KinkajouError {
  const words: Record<keyof Limits, string> = {
    fileBytes: 'bytes in one file',
    entries: 'files in one parcel',
    totalBytes: 'unpacked bytes in one parcel',
    expansionRatio: 'times its packed size',
    pixels: 'pixels in one image',
    imageBytes: 'bytes of decoded pixels in one image',
    polygons: 'polygons in one model',
    nesting: 'levels of nesting',
    seconds: 'seconds for one file',
    megabytes: 'megabytes of memory for one file',
  };
  return new KinkajouError(
    `limit.${name}`,
    `${format(actual)} ${words[name]}, and the limit is ${format(limit)}`,
    { file },
    `Split the parcel, or raise the limit with ${limitVariable(name)}.`,
  );
}

function format(value: number): string {
  return Math.round(value).toLocaleString('en');
}
