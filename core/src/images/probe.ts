import sharp from 'sharp';
import { KinkajouError } from '../errors.ts';
import { extensionOf } from '../parcel/fileSource.ts';
import { DEFAULT_LIMITS, type Limits, pastLimit } from '../parcel/limits.ts';
import { bmpHeader } from './bmp.ts';
import { type Shortfall, shortfallOf } from './cut.ts';
import { ddsHeader } from './dds.ts';
import { chooseChannels, componentCount, exrHeader } from './exr.ts';
import { foreignType, type ImageFormat, sniffImage } from './format.ts';
import { ktx2Header } from './ktx2.ts';
import { psdHeader } from './psd.ts';
import { tgaHeader } from './tga.ts';

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
  /** Stored as inks (CMYK), which are decoded to red, green and blue. */
  inks?: true;
  /** What the embedded colour profile calls itself, or null without one. */
  profile?: string | null;
  /** Of EXR: x, y of red, green, blue and white, where the file states them. */
  chromaticities?: number[] | null;
  /** Of EXR: its layers, '' for channels without one. */
  layers?: string[];
}

/**
 * Reads an image's header. Throws `image.falseHeader` when the bytes are no image, `image.format` for a kind
 * of pixels that is not read, `image.broken` for a damaged header, `image.cut` for a file that ends before
 * its pixels do, and `limit.pixels` past the limit.
 */
export async function probeImage(
  bytes: Uint8Array,
  path: string,
  limits: Limits = DEFAULT_LIMITS,
): Promise<ImageInfo> {
  const format = sniffImage(bytes, path);
  if (!format) {
    const foreign = foreignType(path);
    if (foreign)
      throw new KinkajouError(
        'image.format',
        `images of type .${foreign} are not read`,
        { file: path },
        'Save the image as PNG.',
      );
    throw new KinkajouError(
      'image.falseHeader',
      bytes.length === 0 ? 'the file is empty' : `the content is not an image of type .${extensionOf(path)}`,
      { file: path, offset: 0 },
      'Export the image again.',
    );
  }
  const shortfall = shortfallOf(format, bytes);
  if (shortfall) throw cutOff(path, shortfall);
  const info = await readHeader(format, bytes, path);
  if (!(info.width > 0 && info.height > 0)) throw broken(path, 'its header states no size');
  if (info.width * info.height > limits.pixels)
    throw pastLimit('pixels', path, info.width * info.height, limits.pixels);
  return info;
}

function cutOff(path: string, { have, need, rows }: Shortfall): KinkajouError {
  const count = (value: number) => value.toLocaleString('en');
  const share = rows ? `; about ${count(rows.have)} of ${count(rows.of)} rows are whole` : '';
  const there =
    need === null
      ? `its ${count(have)} bytes end before its pixels do`
      : `${count(have)} of ${count(need)} bytes are there`;
  return new KinkajouError(
    'image.cut',
    `it is cut off: ${there}${share}`,
    { file: path, offset: have },
    'Copy or export the image again.',
  );
}

function broken(path: string, why: string): KinkajouError {
  return new KinkajouError('image.broken', why, { file: path }, 'Export the image again.');
}

async function readHeader(format: ImageFormat, bytes: Uint8Array, path: string): Promise<ImageInfo> {
  switch (format) {
    case 'tga':
      return { format, ...tgaHeader(bytes), bitDepth: 8, floating: false };
    case 'exr': {
      const header = exrHeader(bytes, path);
      const names = [...chooseChannels(header, undefined, path).values()];
      const components = componentCount(names);
      const { width, height, bitDepth, chromaticities, layers } = header;
      return { format, width, height, bitDepth, floating: true, components, chromaticities, layers };
    }
    case 'hdr':
      return hdrHeader(bytes, path);
    case 'psd': {
      const { width, height, depth, components } = psdHeader(bytes, path);
      return { format, width, height, bitDepth: depth === 1 ? 8 : depth, floating: depth === 32, components };
    }
    case 'dds': {
      const { width, height, bitDepth, floating, components } = ddsHeader(bytes, path);
      return { format, width, height, bitDepth, floating, components };
    }
    case 'ktx2':
      return { format, ...ktx2Header(bytes, path) };
    case 'bmp': {
      const { width, height, components } = bmpHeader(bytes, path);
      return { format, width, height, bitDepth: 8, floating: false, components };
    }
    default:
      return sharpHeader(format, bytes, path);
  }
}

async function sharpHeader(format: ImageFormat, bytes: Uint8Array, path: string): Promise<ImageInfo> {
  try {
    const meta = await sharp(bytes, { limitInputPixels: false, ignoreIcc: true }).metadata();
    const bitDepth = bitDepthOf(meta.depth);
    const inks = meta.space === 'cmyk';
    // The library rounds them to whole numbers as it reads them.
    if (meta.depth === 'float' && meta.space === 'grey16') throw notRead(path, 'its greys are half floats');
    return {
      format,
      width: meta.width,
      height: meta.height,
      bitDepth,
      floating: meta.depth === 'float' || meta.depth === 'double',
      components: inks ? 3 : Math.min(4, meta.channels),
      ...(inks ? { inks } : {}),
      ...(meta.icc ? { profile: profileName(meta.icc) } : {}),
    };
  } catch (error) {
    if (error instanceof KinkajouError) throw error;
    const known = NOT_READ.find(([pattern]) => pattern.test((error as Error).message));
    throw known ? notRead(path, known[1]) : broken(path, 'its header is damaged');
  }
}

/** What the library says of whole images that it does not know. */
const NOT_READ: readonly (readonly [RegExp, string])[] = [
  [/samples out of range/, 'its numbers are of a kind that images seldom have, such as floats of 64 bits'],
  [/exceeds channel limit/, 'it has more than four components'],
];

/** An image of a known type whose pixels are of a kind that is not read. */
function notRead(path: string, why: string): KinkajouError {
  return new KinkajouError(
    'image.format',
    `${why}, which is not read`,
    { file: path },
    'Save the image as EXR or PNG.',
  );
}

function bitDepthOf(depth: string | undefined): ImageInfo['bitDepth'] {
  if (depth === 'uchar' || depth === 'char') return 8;
  return depth === 'ushort' || depth === 'short' ? 16 : 32;
}

/** The description tag of an ICC profile, of version 2 (text) or 4 (UTF-16). */
export function profileName(icc: Uint8Array): string {
  const view = new DataView(icc.buffer, icc.byteOffset, icc.byteLength);
  const count = icc.length > 132 ? view.getUint32(128) : 0;
  for (let i = 0; i < count && 132 + i * 12 + 12 <= icc.length; i += 1) {
    const offset = 132 + i * 12;
    if (String.fromCharCode(...icc.subarray(offset, offset + 4)) !== 'desc') continue;
    const start = view.getUint32(offset + 4);
    if (start + 28 > icc.length) break;
    const type = String.fromCharCode(...icc.subarray(start, start + 4));
    if (type === 'desc')
      return new TextDecoder('latin1')
        .decode(icc.subarray(start + 12, start + 12 + view.getUint32(start + 8)))
        .replace(/\0.*$/s, '');
    if (type === 'mluc')
      return new TextDecoder('utf-16be').decode(
        icc.subarray(
          start + view.getUint32(start + 24),
          start + view.getUint32(start + 24) + view.getUint32(start + 20),
        ),
      );
  }
  return 'unnamed';
}

function hdrHeader(bytes: Uint8Array, path: string): ImageInfo {
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 4096));
  const size = /[-+]Y\s+(\d+)\s+[-+]X\s+(\d+)/.exec(head);
  if (!size) throw broken(path, 'its header states no size');
  return {
    format: 'hdr',
    width: Number(size[2]),
    height: Number(size[1]),
    bitDepth: 32,
    floating: true,
    components: 3,
  };
}
