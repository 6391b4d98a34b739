import sharp from 'sharp';
import { KinkajouError } from '../errors.ts';
import { extensionOf } from '../parcel/fileSource.ts';
import { DEFAULT_LIMITS, type Limits, pastLimit } from '../parcel/limits.ts';

export type ImageFormat = 'png' | 'jpeg' | 'tiff' | 'webp' | 'tga' | 'exr' | 'hdr' | 'bmp' | 'psd' | 'dds' | 'ktx2';

/** What an image's header says, read without its pixels. */
export interface ImageInfo {
  format: ImageFormat;
  width: number;
  height: number;
  /** Bits per component. */
  bitDepth: 8 | 16 | 32;
  floating: boolean;
  /** 1 to 4. */
  components: number;
}

const EXTENSIONS: Record<string, ImageFormat> = {
  png: 'png',
  jpg: 'jpeg',
  jpeg: 'jpeg',
  tif: 'tiff',
  tiff: 'tiff',
  webp: 'webp',
  tga: 'tga',
  exr: 'exr',
  hdr: 'hdr',
  bmp: 'bmp',
  psd: 'psd',
  dds: 'dds',
  ktx2: 'ktx2',
};

const READABLE = new Set<ImageFormat>(['png', 'jpeg', 'tiff', 'webp', 'tga', 'exr', 'hdr']);

export function isImagePath(path: string): boolean {
  return extensionOf(path) in EXTENSIONS;
}

/** The format that the first bytes speak of; TGA has no signature and is taken by its name and a sane header. */
export function sniffImage(bytes: Uint8Array, path = ''): ImageFormat | null {
  const starts = (...codes: number[]) => codes.every((code, i) => bytes[i] === code);
  if (starts(0x89, 0x50, 0x4e, 0x47)) return 'png';
  if (starts(0xff, 0xd8, 0xff)) return 'jpeg';
  if (starts(0x49, 0x49, 0x2a, 0) || starts(0x4d, 0x4d, 0, 0x2a)) return 'tiff';
  if (starts(0x49, 0x49, 0x2b, 0) || starts(0x4d, 0x4d, 0, 0x2b)) return 'tiff';
  if (starts(0x52, 0x49, 0x46, 0x46) && bytes[8] === 0x57 && bytes[9] === 0x45) return 'webp';
  if (starts(0x76, 0x2f, 0x31, 0x01)) return 'exr';
  if (starts(0x23, 0x3f)) return 'hdr';
  if (starts(0x38, 0x42, 0x50, 0x53)) return 'psd';
  if (starts(0x44, 0x44, 0x53, 0x20)) return 'dds';
  if (starts(0xab, 0x4b, 0x54, 0x58)) return 'ktx2';
  if (starts(0x42, 0x4d) && extensionOf(path) === 'bmp') return 'bmp';
  if (extensionOf(path) === 'tga' && isTgaHeader(bytes)) return 'tga';
  return null;
}

function isTgaHeader(bytes: Uint8Array): boolean {
  return bytes.length > 18 && bytes[1] <= 1 && [1, 2, 3, 9, 10, 11].includes(bytes[2]) && [8, 15, 16, 24, 32].includes(bytes[16]);
}

/**
 * Reads an image's header. Throws `image.falseHeader` when the bytes are no image, `image.format` for a type that
 * cannot be read yet, `image.broken` for a damaged header and `limit.pixels` past the limit.
 */
export async function probeImage(bytes: Uint8Array, path: string, limits: Limits = DEFAULT_LIMITS): Promise<ImageInfo> {
  const format = sniffImage(bytes, path);
  if (!format) {
    throw new KinkajouError(
      'image.falseHeader',
      bytes.length === 0 ? 'the file is empty' : `the content is not an image of type .${extensionOf(path)}`,
      { file: path, offset: 0 },
      'Export the image again.',
    );
  }
  if (!READABLE.has(format)) {
    throw new KinkajouError(
      'image.format',
      `images of type ${format} cannot be read yet`,
      { file: path },
      'Save it as PNG, TIFF, JPEG, WebP, TGA, EXR or HDR.',
    );
  }
  const info = await readHeader(format, bytes, path);
  if (!(info.width > 0 && info.height > 0)) throw broken(path, 'its header states no size');
  if (info.width * info.height > limits.pixels) throw pastLimit('pixels', path, info.width * info.height, limits.pixels);
  return info;
}

function broken(path: string, why: string): KinkajouError {
  return new KinkajouError('image.broken', why, { file: path }, 'Export the image again.');
}

async function readHeader(format: ImageFormat, bytes: Uint8Array, path: string): Promise<ImageInfo> {
  if (format === 'tga') return tgaHeader(bytes);
  if (format === 'exr') return exrHeader(bytes, path);
  if (format === 'hdr') return hdrHeader(bytes, path);
  try {
    const meta = await sharp(bytes, { limitInputPixels: false, ignoreIcc: true }).metadata();
    const bitDepth = meta.depth === 'uchar' || meta.depth === 'char' ? 8 : meta.depth === 'ushort' || meta.depth === 'short' ? 16 : 32;
    return {
      format,
      width: meta.width,
      height: meta.height,
      bitDepth,
      floating: meta.depth === 'float' || meta.depth === 'double',
      components: Math.min(4, meta.channels),
    };
  } catch (error) {
    throw broken(path, `its header cannot be read (${(error as Error).message.split('\n')[0]})`);
  }
}

function tgaHeader(bytes: Uint8Array): ImageInfo {
  const palette = bytes[2] === 1 || bytes[2] === 9;
  const bits = palette ? bytes[7] : bytes[16];
  const grey = bytes[2] === 3 || bytes[2] === 11;
  return {
    format: 'tga',
    width: bytes[12] | (bytes[13] << 8),
    height: bytes[14] | (bytes[15] << 8),
    bitDepth: 8,
    floating: false,
    components: grey ? (bits === 16 ? 2 : 1) : bits === 32 ? 4 : 3,
  };
}

/** Attributes of an OpenEXR header: name, type, size, value, each text ending in a zero byte. */
function exrHeader(bytes: Uint8Array, path: string): ImageInfo {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = 8;
  const text = () => {
    const end = bytes.indexOf(0, at);
    if (end < 0 || end - at > 255) throw broken(path, 'its header is cut off');
    const value = String.fromCharCode(...bytes.subarray(at, end));
    at = end + 1;
    return value;
  };
  let width = 0;
  let height = 0;
  const names: string[] = [];
  let deep = 0;
  while (at < bytes.length && bytes[at] !== 0) {
    const name = text();
    text();
    if (at + 4 > bytes.length) throw broken(path, 'its header is cut off');
    const size = view.getUint32(at, true);
    at += 4;
    const end = at + size;
    if (end > bytes.length) throw broken(path, 'its header is cut off');
    if (name === 'dataWindow' && size >= 16) {
      width = view.getInt32(at + 8, true) - view.getInt32(at, true) + 1;
      height = view.getInt32(at + 12, true) - view.getInt32(at + 4, true) + 1;
    } else if (name === 'channels') {
      while (at < end && bytes[at] !== 0) {
        names.push(text());
        deep = Math.max(deep, view.getInt32(at, true) === 1 ? 16 : 32);
        at += 16;
      }
    }
    at = end;
  }
  if (names.length === 0) throw broken(path, 'its header names no channels');
  return { format: 'exr', width, height, bitDepth: deep === 16 ? 16 : 32, floating: true, components: Math.min(4, names.length) };
}

function hdrHeader(bytes: Uint8Array, path: string): ImageInfo {
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 4096));
  const size = /[-+]Y\s+(\d+)\s+[-+]X\s+(\d+)/.exec(head);
  if (!size) throw broken(path, 'its header states no size');
  return { format: 'hdr', width: Number(size[2]), height: Number(size[1]), bitDepth: 32, floating: true, components: 3 };
}
