import { KinkajouError } from '../errors.ts';
import type { PixelBuffer } from './pixelBuffer.ts';

/** What the header of a BMP file states. */
export interface BmpHeader {
  width: number;
  height: number;
  /** 4 where each pixel has an alpha, else 3. */
  components: 3 | 4;
  /** Bits a pixel: 1, 2, 4, 8 (of a palette), 16, 24 or 32. */
  bits: number;
  compression: number;
  /** Rows run downwards. */
  topDown: boolean;
  /** Where the pixels begin, in bytes. */
  pixels: number;
  /** Bits of red, green, blue and alpha within a pixel of 16 or 32 bits; 0 for none. */
  masks: readonly [red: number, green: number, blue: number, alpha: number];
  /** Entries of the palette as blue, green, red, of `stride` bytes each. */
  palette: { start: number; stride: 3 | 4; count: number };
}

const [PLAIN, RUNS_OF_8, RUNS_OF_4, MASKS, ALPHA_MASKS] = [0, 1, 2, 3, 6];
const MASK_BYTES: Readonly<Record<number, number>> = { [MASKS]: 12, [ALPHA_MASKS]: 16 };
/** Length of the file's own header, and of the oldest and the usual one behind it. */
const FILE_HEADER = 14;
const CORE_HEADER = 12;
const INFO_HEADER = 40;
/** Headers from this length on hold the masks of red, green and blue, and from the next on that of alpha. */
const WITH_MASKS = 52;
const WITH_ALPHA = 56;

/**
 * Reads the header of a BMP file (Windows 2 to 5, OS/2). Throws `image.broken` where it is cut off or names
 * what no BMP has, `image.format` where a JPEG or PNG is packed in.
 */
export function bmpHeader(bytes: Uint8Array, path: string): BmpHeader {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const fault = (why: string) =>
    new KinkajouError('image.broken', why, { file: path }, 'Export the image again.');
  if (bytes.length < FILE_HEADER + CORE_HEADER) throw fault('its header is cut off');
  const length = view.getUint32(FILE_HEADER, true);
  const old = length < INFO_HEADER;
  if (bytes.length < FILE_HEADER + length) throw fault('its header is cut off');
  const bits = view.getUint16(old ? 24 : 28, true);
  const compression = old ? PLAIN : view.getUint32(30, true);
  if (![1, 2, 4, 8, 16, 24, 32].includes(bits)) throw fault(`it states ${bits} bits a pixel`);
  if (compression > MASKS && compression !== ALPHA_MASKS)
    throw new KinkajouError(
      'image.format',
      'its pixels are packed as another type of image',
      { file: path },
      'Save the image as PNG.',
    );
  const height = old ? view.getUint16(20, true) : view.getInt32(22, true);
  const masks = masksOf(view, length, { bits, compression });
  // Masks may stand between an ordinary header and the palette.
  const between = length === INFO_HEADER ? (MASK_BYTES[compression] ?? 0) : 0;
  const start = FILE_HEADER + length + between;
  const stated = length >= INFO_HEADER ? view.getUint32(46, true) : 0;
  return {
    width: old ? view.getUint16(18, true) : view.getInt32(18, true),
    height: Math.abs(height),
    components: masks[3] !== 0 ? 4 : 3,
    bits,
    compression,
    topDown: height < 0,
    pixels: view.getUint32(10, true),
    masks,
    palette: { start, stride: old ? 3 : 4, count: bits > 8 ? 0 : Math.min(stated || 2 ** bits, 2 ** bits) },
  };
}

/** The usual masks are 5 bits a component of 16, and 8 of 32, where the highest byte may be alpha. */
function masksOf(
  view: DataView,
  length: number,
  { bits, compression }: Pick<BmpHeader, 'bits' | 'compression'>,
): BmpHeader['masks'] {
  if (compression === MASKS || compression === ALPHA_MASKS) {
    const stated = (offset: number) => (offset + 4 <= view.byteLength ? view.getUint32(offset, true) : 0);
    const first = FILE_HEADER + INFO_HEADER;
    const hasAlpha = compression === ALPHA_MASKS || length >= WITH_ALPHA;
    return [stated(first), stated(first + 4), stated(first + 8), hasAlpha ? stated(first + 12) : 0];
  }
  if (bits === 16) return [0x7c00, 0x3e0, 0x1f, 0];
  const alpha = bits === 32 && (length < WITH_MASKS || length >= WITH_ALPHA) ? 0xff000000 : 0;
  return [0xff0000, 0xff00, 0xff, alpha];
}

/**
 * Decodes BMP, top row first: palettes, run-length coded or not, and pixels of 16, 24 and 32 bits. An alpha that
 * is 0 all over is none.
 */
export function decodeBmp(bytes: Uint8Array, path: string): PixelBuffer {
  const header = bmpHeader(bytes, path);
  const { width, height, bits } = header;
  const rgba = bits <= 8 ? fromPalette(bytes, header) : fromPixels(bytes, header);
  const clear = header.components === 3 || !rgba.some((value, i) => i % 4 === 3 && value !== 0);
  if (!clear) return { width, height, components: 4, data: rgba };
  return { width, height, components: 3, data: rgba.filter((_, i) => i % 4 !== 3) };
}

/** Row of the picture for a row of the file. */
function rowOf({ height, topDown }: BmpHeader, row: number): number {
  return topDown ? row : height - 1 - row;
}

function fromPalette(bytes: Uint8Array, header: BmpHeader): Uint8Array {
  const { width, height, compression, palette } = header;
  const runs = compression === RUNS_OF_8 || compression === RUNS_OF_4;
  const indices = runs ? indicesOfRuns(bytes, header) : plainIndices(bytes, header);
  const out = new Uint8Array(width * height * 4);
  for (let i = 0; i < indices.length; i += 1) {
    const entry = palette.start + Math.min(indices[i], palette.count - 1) * palette.stride;
    out.set([bytes[entry + 2], bytes[entry + 1], bytes[entry], 255], i * 4);
  }
  return out;
}

/** Indices into the palette, top row first; rows fill up to four bytes. */
function plainIndices(bytes: Uint8Array, header: BmpHeader): Uint8Array {
  const { width, height, bits, pixels } = header;
  const stride = Math.ceil((width * bits) / 32) * 4;
  const [each, mask] = [8 / bits, 2 ** bits - 1];
  const out = new Uint8Array(width * height);
  for (let row = 0; row < height; row += 1) {
    const to = rowOf(header, row) * width;
    for (let x = 0; x < width; x += 1) {
      const byte = bytes[pixels + row * stride + Math.floor(x / each)] ?? 0;
      out[to + x] = (byte >> (8 - bits - (x % each) * bits)) & mask;
    }
  }
  return out;
}

/**
 * Runs of one index (of two by turns where a pixel has 4 bits), stretches of indices as they are, and marks: 0
 * ends the row, 1 the picture, 2 moves on.
 */
function indicesOfRuns(bytes: Uint8Array, header: BmpHeader): Uint8Array {
  const { width, height, compression, pixels } = header;
  const halves = compression === RUNS_OF_4;
  const out = new Uint8Array(width * height);
  let [x, row, at] = [0, 0, pixels];
  const put = (index: number) => {
    if (x < width && row < height) out[rowOf(header, row) * width + x] = index;
    x += 1;
  };
  const half = (byte: number, i: number) => (i % 2 === 0 ? byte >> 4 : byte & 15);
  while (at + 1 < bytes.length && row < height) {
    const [count, value] = [bytes[at], bytes[at + 1]];
    at += 2;
    if (count > 0) for (let i = 0; i < count; i += 1) put(halves ? half(value, i) : value);
    else if (value === 0) [x, row] = [0, row + 1];
    else if (value === 1) break;
    else if (value === 2) {
      [x, row] = [x + (bytes[at] ?? 0), row + (bytes[at + 1] ?? 0)];
      at += 2;
    } else {
      for (let i = 0; i < value; i += 1)
        put(halves ? half(bytes[at + (i >> 1)] ?? 0, i) : (bytes[at + i] ?? 0));
      // A stretch fills up to two bytes.
      const size = halves ? Math.ceil(value / 2) : value;
      at += size + (size % 2);
    }
  }
  return out;
}

function fromPixels(bytes: Uint8Array, header: BmpHeader): Uint8Array {
  const { width, height, bits, pixels, masks } = header;
  const stride = Math.ceil((width * bits) / 32) * 4;
  const size = bits / 8;
  const parts = masks.map((mask) => {
    const shift = mask === 0 ? 0 : 31 - Math.clz32(mask & -mask);
    return { mask, shift, most: (mask >>> shift) >>> 0 };
  });
  const out = new Uint8Array(width * height * 4);
  for (let row = 0; row < height; row += 1) {
    let to = rowOf(header, row) * width * 4;
    for (let x = 0; x < width; x += 1, to += 4) {
      const index = pixels + row * stride + x * size;
      let value = 0;
      for (let k = size - 1; k >= 0; k -= 1) value = value * 256 + (bytes[index + k] ?? 0);
      for (let k = 0; k < 4; k += 1) {
        const { mask, shift, most } = parts[k];
        out[to + k] = mask === 0 ? 255 : Math.round((((value & mask) >>> shift) * 255) / most);
      }
    }
  }
  return out;
}
