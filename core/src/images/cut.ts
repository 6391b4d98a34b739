import { constants, inflateSync } from 'node:zlib';
import { ddsBytes } from './dds.ts';
import type { ImageFormat } from './format.ts';

/**
 * What is there of an image file that ends too early: bytes, and how many there should be at least where the
 * file says so.
 */
export interface Shortfall {
  have: number;
  need: number | null;
  /** Rows of pixels that are there, where they can be counted. */
  rows?: { have: number; of: number };
}

/**
 * Whether the file ends before its pixels do, told from its own lists and lengths without decoding. Null
 * where it is whole, and where a format's own decoder is the first to know.
 */
export function shortfallOf(format: ImageFormat, bytes: Uint8Array): Shortfall | null {
  const need = needOf(format, bytes);
  if (need === 0) return null;
  if (need === null) return { have: bytes.length, need: null, ...(format === 'png' ? pngRows(bytes) : {}) };
  return need > bytes.length ? { have: bytes.length, need } : null;
}

function needOf(format: ImageFormat, bytes: Uint8Array): number | null {
  try {
    return NEEDS[format](bytes);
  } catch {
    // A header that ends too early, or none at all: reading it says so.
    return 0;
  }
}

/**
 * Bytes that a file must have; null where it lacks its end and does not say how far that is; 0 where nothing
 * is known.
 */
type Need = (bytes: Uint8Array) => number | null;

const NEEDS: Record<ImageFormat, Need> = {
  png: pngNeed,
  jpeg: jpegNeed,
  tiff: tiffNeed,
  webp: (bytes) => viewOf(bytes).getUint32(4, true) + 8,
  avif: avifNeed,
  gif: gifNeed,
  tga: tgaNeed,
  hdr: hdrNeed,
  bmp: bmpNeed,
  exr: exrNeed,
  dds: ddsBytes,
  ktx2: ktx2Need,
  psd: psdNeed,
};

function viewOf(bytes: Uint8Array): DataView {
  return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
}

const PNG_SIGNATURE = 8;
const CHUNK_FRAME = 12;

/** Chunks of length, type, content and checksum, up to IEND. */
function pngNeed(bytes: Uint8Array): number | null {
  const view = viewOf(bytes);
  let offset = PNG_SIGNATURE;
  while (offset + CHUNK_FRAME <= bytes.length) {
    const type = view.getUint32(offset + 4);
    const end = offset + CHUNK_FRAME + view.getUint32(offset);
    if (type === 0x49454e44) return end;
    // Zeros where a chunk should begin: the rest was never written.
    if (type === 0) return null;
    offset = end;
  }
  if (offset > bytes.length) return endsWithinImage(bytes) ? null : offset;
  return null;
}

/** Whether the last chunk that begins holds pixels: others may follow, so nobody knows the whole length. */
function endsWithinImage(bytes: Uint8Array): boolean {
  const view = viewOf(bytes);
  let type = 0;
  for (let offset = PNG_SIGNATURE; offset + 8 <= bytes.length; offset += CHUNK_FRAME + view.getUint32(offset))
    type = view.getUint32(offset + 4);
  return type === 0x49444154;
}

/** Rows of larger images are not counted, since that takes as long as decoding. */
const MOST_COUNTED = 64e6;

/** Rows that the packed pixels still hold, of images that are not interlaced. */
function pngRows(bytes: Uint8Array): Pick<Shortfall, 'rows'> {
  const view = viewOf(bytes);
  if (bytes.length < 33 || bytes[28] !== 0) return {};
  const [width, height] = [view.getUint32(16), view.getUint32(20)];
  if (width * height > MOST_COUNTED) return {};
  const samples = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 }[bytes[25] as 0] ?? 0;
  const row = 1 + Math.ceil((width * samples * bytes[24]) / 8);
  const pieces: Uint8Array[] = [];
  for (let offset = PNG_SIGNATURE; offset + 8 <= bytes.length; offset += CHUNK_FRAME + view.getUint32(offset))
    if (view.getUint32(offset + 4) === 0x49444154)
      pieces.push(bytes.subarray(offset + 8, offset + 8 + view.getUint32(offset)));
  try {
    const raw = inflateSync(Buffer.concat(pieces), {
      finishFlush: constants.Z_SYNC_FLUSH,
      maxOutputLength: Math.max(1, row * height),
    });
    return { rows: { have: Math.floor(raw.length / row), of: height } };
  } catch {
    return {};
  }
}

/**
 * Markers with a length, then entropy-coded bytes up to the next marker that is no restart, up to the end of
 * image.
 */
function jpegNeed(bytes: Uint8Array): number | null {
  const view = viewOf(bytes);
  let offset = 2;
  while (offset + 2 <= bytes.length) {
    if (bytes[offset] !== 0xff) {
      offset = bytes.indexOf(0xff, offset);
      if (offset < 0) return null;
      continue;
    }
    const marker = bytes[offset + 1];
    if (marker === 0xd9) return offset + 2;
    const alone = marker === 0 || marker === 0xff || marker === 1 || (marker >= 0xd0 && marker <= 0xd8);
    if (alone) offset += marker === 0xff ? 1 : 2;
    else if (offset + 4 > bytes.length) return null;
    else offset += 2 + view.getUint16(offset + 2);
  }
  return null;
}

/** Bytes of one value by TIFF field type. */
const TIFF_SIZES = [0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8, 4, 0, 0, 8, 8, 8];
const STRIP_OFFSETS = 273;
const STRIP_COUNTS = 279;
const TILE_OFFSETS = 324;
const TILE_COUNTS = 325;

/** Strips or tiles of the first directory, which say where they begin and how long they are. */
function tiffNeed(bytes: Uint8Array): number | null {
  const view = viewOf(bytes);
  const little = bytes[0] === 0x49;
  const big = view.getUint16(2, little) === 43;
  const wide = (offset: number) =>
    big ? Number(view.getBigUint64(offset, little)) : view.getUint32(offset, little);
  const directory = wide(big ? 8 : 4);
  const [head, entry] = big ? [8, 20] : [2, 12];
  if (directory + head > bytes.length) return directory + head;
  const count = big ? Number(view.getBigUint64(directory, little)) : view.getUint16(directory, little);
  const end = directory + head + count * entry;
  if (end > bytes.length) return end;
  const lists = new Map<number, number[]>();
  for (let i = 0; i < count; i += 1) {
    const offset = directory + head + i * entry;
    const tag = view.getUint16(offset, little);
    if (![STRIP_OFFSETS, STRIP_COUNTS, TILE_OFFSETS, TILE_COUNTS].includes(tag)) continue;
    const type = view.getUint16(offset + 2, little);
    const values = big ? Number(view.getBigUint64(offset + 4, little)) : view.getUint32(offset + 4, little);
    const size = TIFF_SIZES[type] ?? 0;
    if (size === 0) continue;
    const field = offset + (big ? 12 : 8);
    const start = values * size <= (big ? 8 : 4) ? field : wide(field);
    if (start + values * size > bytes.length) return start + values * size;
    lists.set(
      tag,
      Array.from({ length: values }, (_, k) => {
        const place = start + k * size;
        return readUnsigned(size, view, place, little);
      }),
    );
  }
  const offsets = lists.get(STRIP_OFFSETS) ?? lists.get(TILE_OFFSETS) ?? [];
  const counts = lists.get(STRIP_COUNTS) ?? lists.get(TILE_COUNTS) ?? [];
  return offsets.reduce((most, offset, i) => Math.max(most, offset + (counts[i] ?? 0)), end);
}

/** Boxes of a length and a name, one behind the other; a length of 0 leads to the end, of 1 stands behind. */
function avifNeed(bytes: Uint8Array): number {
  const view = viewOf(bytes);
  let offset = 0;
  while (offset < bytes.length) {
    if (offset + 8 > bytes.length) return offset + 8;
    const length = view.getUint32(offset);
    // What has no name is no box, but bytes behind them.
    if (bytes.subarray(offset + 4, offset + 8).some((code) => code < 0x20 || code > 0x7e)) return offset;
    if (length === 0) return offset + 8;
    offset += length === 1 ? Number(view.getBigUint64(offset + 8)) : Math.max(8, length);
  }
  return offset;
}

const GIF_HEADER = 13;

/** Blocks behind the colours: extensions and pictures, each in pieces of a length, up to the trailer. */
function gifNeed(bytes: Uint8Array): number | null {
  const colours = (flags: number) => (flags & 0x80 ? 3 << ((flags & 7) + 1) : 0);
  let offset = GIF_HEADER + colours(bytes[10]);
  while (offset < bytes.length) {
    const kind = bytes[offset];
    if (kind === 0x3b) return offset + 1;
    if (kind === 0x2c) offset += 11 + colours(bytes[offset + 9]);
    else if (kind === 0x21) offset += 2;
    else return 0;
    while (offset < bytes.length && bytes[offset] !== 0) offset += 1 + bytes[offset];
    offset += 1;
  }
  return null;
}

const TGA_HEADER = 18;
/** From this type number on, pixels come in packets. */
const TGA_PACKED = 8;

function readUnsigned(size: number, view: DataView, place: number, little: boolean): number {
  if (size === 2) return view.getUint16(place, little);
  return size === 8 ? Number(view.getBigUint64(place, little)) : view.getUint32(place, little);
}

function tgaNeed(bytes: Uint8Array): number | null {
  if (bytes.length < TGA_HEADER) return TGA_HEADER;
  const view = viewOf(bytes);
  const palette = bytes[1] === 1 ? view.getUint16(5, true) * Math.ceil(bytes[7] / 8) : 0;
  const start = TGA_HEADER + bytes[0] + palette;
  const size = Math.ceil(bytes[16] / 8);
  const pixels = view.getUint16(12, true) * view.getUint16(14, true);
  if (bytes[2] < TGA_PACKED) return start + pixels * size;
  let offset = start;
  for (let done = 0; done < pixels; ) {
    if (offset >= bytes.length) return null;
    const run = (bytes[offset] & 127) + 1;
    offset += 1 + (bytes[offset] > 127 ? size : run * size);
    done += run;
  }
  return offset;
}

/** Rows of four planes in runs, or plain pixels of four bytes. Source: the RGBE format of Radiance. */
function hdrNeed(bytes: Uint8Array): number | null {
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 4096));
  const size = /[-+]Y\s+(\d+)\s+[-+]X\s+(\d+)[^\n]*\n/.exec(head);
  if (!size) return 0;
  const [height, width] = [Number(size[1]), Number(size[2])];
  let offset = size.index + size[0].length;
  const packed = width >= 8 && width < 32_768 && bytes[offset] === 2 && bytes[offset + 1] === 2;
  if (!packed) return hasOldRuns(bytes, offset) ? 0 : offset + width * height * 4;
  for (let y = 0; y < height; y += 1) {
    offset += 4;
    for (let filled = 0; filled < width * 4; ) {
      if (offset >= bytes.length) return null;
      const count = bytes[offset];
      // A run of nothing would never end.
      if (count === 0) return 0;
      offset += count > 128 ? 2 : 1 + count;
      filled += count > 128 ? count - 128 : count;
    }
  }
  return offset;
}

/** The first form of the format repeats a pixel by one of 1, 1, 1 and a count, which no other pixel is. */
function hasOldRuns(bytes: Uint8Array, start: number): boolean {
  for (let offset = start; offset + 4 <= bytes.length; offset += 4)
    if (bytes[offset] === 1 && bytes[offset + 1] === 1 && bytes[offset + 2] === 1) return true;
  return false;
}

function bmpNeed(bytes: Uint8Array): number | null {
  const view = viewOf(bytes);
  if (bytes.length < 34) return 34;
  // An older header holds its size elsewhere.
  if (view.getUint32(14, true) < 40) return 0;
  const [width, height, bits] = [
    view.getInt32(18, true),
    Math.abs(view.getInt32(22, true)),
    view.getUint16(28, true),
  ];
  // Run-length coded ones end with a mark of their own, and so do images of other types that are packed in.
  if ([1, 2, 4, 5].includes(view.getUint32(30, true))) return 0;
  return view.getUint32(10, true) + Math.ceil((width * bits) / 32) * 4 * height;
}

/** Rows per block, by the number of the compression. */
const EXR_ROWS = [1, 1, 1, 16, 32, 16, 32, 32, 32, 256];

/** Blocks by the table of offsets behind the header, of files of one part in rows. */
function exrNeed(bytes: Uint8Array): number | null {
  const view = viewOf(bytes);
  const flags = view.getUint32(4, true);
  const [tiled, deep, multipart] = [(flags & 0x200) !== 0, (flags & 0x800) !== 0, (flags & 0x1000) !== 0];
  if (tiled || deep || multipart) return 0;
  let offset = 8;
  let [compression, top, bottom] = [0, 0, -1];
  while (offset < bytes.length && bytes[offset] !== 0) {
    const nameEnd = bytes.indexOf(0, offset);
    const typeEnd = bytes.indexOf(0, nameEnd + 1);
    if (nameEnd < 0 || typeEnd < 0 || typeEnd + 5 > bytes.length) return null;
    const name = String.fromCharCode(...bytes.subarray(offset, Math.min(nameEnd, offset + 32)));
    const content = typeEnd + 5;
    const size = view.getUint32(typeEnd + 1, true);
    if (content + size > bytes.length) return content + size;
    if (name === 'compression') compression = bytes[content];
    if (name === 'dataWindow' && size >= 16)
      [top, bottom] = [view.getInt32(content + 4, true), view.getInt32(content + 12, true)];
    offset = content + size;
  }
  const table = offset + 1;
  const blocks = Math.ceil((bottom - top + 1) / (EXR_ROWS[compression] ?? 1));
  const start = table + blocks * 8;
  if (start > bytes.length) return start;
  let end = start;
  for (let block = 0; block < blocks; block += 1) {
    const place = Number(view.getBigUint64(table + block * 8, true));
    // The table is written last, so zeros stand for blocks that never were.
    if (place === 0) return null;
    if (place + 8 > bytes.length) return Math.max(end, place + 8);
    end = Math.max(end, place + 8 + view.getUint32(place + 4, true));
  }
  return end;
}

/** Levels by their index of offset, length and unpacked length. */
function ktx2Need(bytes: Uint8Array): number | null {
  const view = viewOf(bytes);
  const [levels, index, entry] = [Math.max(1, view.getUint32(40, true)), 80, 24];
  let need = index + levels * entry;
  if (need > bytes.length) return need;
  for (let level = 0; level < levels; level += 1) {
    const offset = index + level * entry;
    need = Math.max(
      need,
      Number(view.getBigUint64(offset, true)) + Number(view.getBigUint64(offset + 8, true)),
    );
  }
  return need;
}

/** Sections with their lengths, then the flattened picture: raw, or rows in runs whose lengths come first. */
function psdNeed(bytes: Uint8Array): number | null {
  const view = viewOf(bytes);
  const wide = view.getUint16(4) === 2;
  let offset = 26;
  for (const long of [false, false, wide]) {
    if (offset + (long ? 8 : 4) > bytes.length) return offset + (long ? 8 : 4);
    offset += long ? 8 + Number(view.getBigUint64(offset)) : 4 + view.getUint32(offset);
  }
  if (offset + 2 > bytes.length) return offset + 2;
  const [channels, height, width, depth] = [
    view.getUint16(12),
    view.getUint32(14),
    view.getUint32(18),
    view.getUint16(22),
  ];
  const compression = view.getUint16(offset);
  const start = offset + 2;
  if (compression === 0) return start + Math.ceil((width * depth) / 8) * height * channels;
  if (compression !== 1) return 0;
  const [rows, size] = [height * channels, wide ? 4 : 2];
  let need = start + rows * size;
  if (need > bytes.length) return need;
  for (let row = 0; row < rows; row += 1)
    need += wide ? view.getUint32(start + row * 4) : view.getUint16(start + row * 2);
  return need;
}
