import { own } from '../own.ts';
import { extensionOf } from '../parcel/fileSource.ts';

/** Formats that images are read in. */
export type ImageFormat =
  | 'png'
  | 'jpeg'
  | 'tiff'
  | 'webp'
  | 'avif'
  | 'gif'
  | 'tga'
  | 'exr'
  | 'hdr'
  | 'bmp'
  | 'psd'
  | 'dds'
  | 'ktx2';

const EXTENSIONS: Record<string, ImageFormat> = {
  png: 'png',
  jpg: 'jpeg',
  jpeg: 'jpeg',
  jfif: 'jpeg',
  tif: 'tiff',
  tiff: 'tiff',
  // Tiled and with its smaller copies within, as renderers read them.
  tx: 'tiff',
  webp: 'webp',
  avif: 'avif',
  gif: 'gif',
  tga: 'tga',
  exr: 'exr',
  hdr: 'hdr',
  bmp: 'bmp',
  psd: 'psd',
  psb: 'psd',
  dds: 'dds',
  ktx2: 'ktx2',
};

/** The type that a file's extension names, or null. */
export function formatOfPath(path: string): ImageFormat | null {
  return own(EXTENSIONS, extensionOf(path)) ?? null;
}

/** Whether the extension is one of an image format that is read. */
export function isImagePath(path: string): boolean {
  return own(EXTENSIONS, extensionOf(path)) !== undefined;
}

/** Types of images that other programs have and that are not read here. */
const FOREIGN = new Set([
  ...['heic', 'heif', 'jxl', 'jp2', 'j2k', 'jpf', 'svg', 'ico', 'pcx'],
  ...['pic', 'iff', 'sgi', 'rgb', 'rgba', 'bw', 'ptx', 'ptex', 'xcf', 'kra', 'dpx', 'cin', 'raw'],
]);

/** The extension of a path that names an image of a type that is not read; null for any other. */
export function foreignType(path: string): string | null {
  const extension = extensionOf(path);
  return FOREIGN.has(extension) ? extension : null;
}

/**
 * The format that the first bytes speak of; TGA has no signature and is taken by its name and a sane header.
 */
export function sniffImage(bytes: Uint8Array, path = ''): ImageFormat | null {
  const starts = (...codes: number[]) => codes.every((code, i) => bytes[i] === code);
  if (starts(0x89, 0x50, 0x4e, 0x47)) return 'png';
  if (starts(0xff, 0xd8, 0xff)) return 'jpeg';
  if (starts(0x49, 0x49, 0x2a, 0) || starts(0x4d, 0x4d, 0, 0x2a)) return 'tiff';
  if (starts(0x49, 0x49, 0x2b, 0) || starts(0x4d, 0x4d, 0, 0x2b)) return 'tiff';
  if (starts(0x52, 0x49, 0x46, 0x46) && bytes[8] === 0x57 && bytes[9] === 0x45) return 'webp';
  if (starts(0x47, 0x49, 0x46, 0x38)) return 'gif';
  if (isAvif(bytes)) return 'avif';
  if (starts(0x76, 0x2f, 0x31, 0x01)) return 'exr';
  if (starts(0x23, 0x3f)) return 'hdr';
  if (starts(0x38, 0x42, 0x50, 0x53)) return 'psd';
  if (starts(0x44, 0x44, 0x53, 0x20)) return 'dds';
  if (starts(0xab, 0x4b, 0x54, 0x58)) return 'ktx2';
  if (starts(0x42, 0x4d) && extensionOf(path) === 'bmp') return 'bmp';
  if (extensionOf(path) === 'tga' && isTgaHeader(bytes)) return 'tga';
  return null;
}

/** The first box names what the file is to be read as: one brand, and others that fit as well. */
function isAvif(bytes: Uint8Array): boolean {
  const text = (start: number) => String.fromCharCode(...bytes.subarray(start, start + 4));
  if (text(4) !== 'ftyp') return false;
  const end = Math.min((bytes[2] << 8) | bytes[3], bytes.length);
  for (let offset = 8; offset + 4 <= end; offset += 4)
    if (['avif', 'avis'].includes(text(offset))) return true;
  return false;
}

function isTgaHeader(bytes: Uint8Array): boolean {
  return (
    bytes.length > 18 &&
    bytes[1] <= 1 &&
    [1, 2, 3, 9, 10, 11].includes(bytes[2]) &&
    [8, 15, 16, 24, 32].includes(bytes[16])
  );
}
