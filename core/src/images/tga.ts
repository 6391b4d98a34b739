import type { PixelBuffer } from './pixelBuffer.ts';

/** What the header of a TGA file states. */
export interface TgaHeader {
  width: number;
  height: number;
  components: number;
}

/** Size and components by the 18 bytes of the header; a palette counts by the depth of its entries. */
export function tgaHeader(bytes: Uint8Array): TgaHeader {
  const bits = hasPalette(bytes) ? bytes[7] : bytes[16];
  const grey = (bytes[2] & 7) === GREY;
  return {
    width: bytes[12] | (bytes[13] << 8),
    height: bytes[14] | (bytes[15] << 8),
    components: componentCount(grey, bits),
  };
}

/** Kinds of image; with this bit they are run-length coded. */
const [PALETTE, GREY, RUNS] = [1, 3, 8];
const HEADER = 18;

function hasPalette(bytes: Uint8Array): boolean {
  return (bytes[2] & 7) === PALETTE;
}

function componentCount(grey: boolean, bits: number): number {
  if (grey) return bits === 16 ? 2 : 1;
  return bits === 32 ? 4 : 3;
}

/**
 * Decodes TGA, top row first, with as many components as the file has: colours of 15 to 32 bits, greys,
 * palettes; run-length coded or not, from any corner. Throws `RangeError` where the file ends too early.
 */
export function decodeTga(bytes: Uint8Array): PixelBuffer {
  const { width, height, components } = tgaHeader(bytes);
  const palette = hasPalette(bytes);
  const [first, count] = [bytes[3] | (bytes[4] << 8), bytes[5] | (bytes[6] << 8)];
  const entry = Math.ceil(bytes[7] / 8);
  const colours = HEADER + bytes[0];
  // A palette may lie there although nothing reads it.
  const start = colours + (bytes[1] === 1 ? count * entry : 0);
  const size = Math.ceil(bytes[16] / 8);
  const stored =
    bytes[2] & RUNS ? unpacked(bytes, start, { size, count: width * height }) : bytes.subarray(start);
  if (stored.length < width * height * size) throw new RangeError('the pixels of a TGA end too early');
  const out = new Uint8Array(width * height * components);
  const [fromTop, fromRight] = [(bytes[17] & 0x20) !== 0, (bytes[17] & 0x10) !== 0];
  const colour: StoredColour = palette
    ? { bytes, at: 0, size: entry, components }
    : { bytes: stored, at: 0, size, components };
  for (let row = 0; row < height; row += 1) {
    const y = fromTop ? row : height - 1 - row;
    for (let column = 0; column < width; column += 1) {
      const x = fromRight ? width - 1 - column : column;
      const from = (row * width + column) * size;
      const index = palette ? stored[from] + (size > 1 ? stored[from + 1] * 256 : 0) - first : 0;
      colour.at = palette ? colours + index * entry : from;
      putColour(out, (y * width + x) * components, colour);
    }
  }
  return { width, height, components, data: out };
}

/** Runs of one pixel, and stretches of pixels as they are; the highest bit of a count tells which. */
function unpacked(
  bytes: Uint8Array,
  start: number,
  { size, count }: { size: number; count: number },
): Uint8Array {
  const out = new Uint8Array(count * size);
  let [at, to] = [start, 0];
  while (to < out.length) {
    if (at >= bytes.length) throw new RangeError('the runs of a TGA end too early');
    const length = ((bytes[at] & 127) + 1) * size;
    const run = bytes[at] >= 128;
    at += 1;
    if (run) for (let i = 0; i < length && to + i < out.length; i += 1) out[to + i] = bytes[at + (i % size)];
    else out.set(bytes.subarray(at, at + Math.min(length, out.length - to)), to);
    at += run ? size : length;
    to += length;
  }
  return out;
}

interface StoredColour {
  bytes: Uint8Array;
  at: number;
  /** Bytes that it takes. */
  size: number;
  components: number;
}

/** Blue, green and red of a byte each, perhaps alpha; or five bits each, spread over the whole range. */
function putColour(out: Uint8Array, to: number, { bytes, at, size, components }: StoredColour): void {
  if (components < 3) {
    for (let k = 0; k < components; k += 1) out[to + k] = bytes[at + k];
    return;
  }
  if (size === 2) {
    const value = bytes[at] | (bytes[at + 1] << 8);
    for (let k = 0; k < 3; k += 1) out[to + k] = Math.round((((value >> (10 - k * 5)) & 31) * 255) / 31);
    return;
  }
  for (let k = 0; k < 3; k += 1) out[to + k] = bytes[at + 2 - k];
  if (components === 4) out[to + 3] = bytes[at + 3];
}

/** Encodes 8-bit pixels as TGA with run-length coded rows, top row first. Grey with alpha becomes rgba. */
export function encodeTga({ width, height, components, data }: PixelBuffer): Uint8Array {
  const stride = strideOf(components);
  const out: number[] = [
    0,
    0,
    components === 1 ? 11 : 10,
    0,
    0,
    0,
    0,
    0,
    0,
    0,
    0,
    0,
    width & 255,
    width >> 8,
    height & 255,
    height >> 8,
    stride * 8,
    0x20 | (stride === 4 ? 8 : 0),
  ];
  const row = new Uint8Array(width * stride);
  const pieces: Uint8Array[] = [Uint8Array.from(out)];
  for (let y = 0; y < height; y += 1) {
    for (let x = 0; x < width; x += 1) {
      const from = (y * width + x) * components;
      const to = x * stride;
      // Blue comes first; grey repeats in all three.
      row[to] = data[components < 3 ? from : from + 2];
      if (stride === 1) continue;
      row[to + 1] = data[components < 3 ? from : from + 1];
      row[to + 2] = data[from];
      if (stride === 4) row[to + 3] = data[from + components - 1];
    }
    pieces.push(codedRow(row, width, stride));
  }
  const bytes = new Uint8Array(pieces.reduce((sum, piece) => sum + piece.length, 0));
  let offset = 0;
  for (const piece of pieces) {
    bytes.set(piece, offset);
    offset += piece.length;
  }
  return bytes;
}

function strideOf(components: number) {
  if (components === 1) return 1;
  return components === 3 ? 3 : 4;
}

/** Packets of up to 128 pixels, equal ones once. */
function codedRow(row: Uint8Array, width: number, stride: number): Uint8Array {
  const out = new Uint8Array(row.length + Math.ceil(width / 128) + width);
  let end = 0;
  const same = (a: number, b: number) => {
    for (let k = 0; k < stride; k += 1) if (row[a * stride + k] !== row[b * stride + k]) return false;
    return true;
  };
  let offset = 0;
  while (offset < width) {
    let run = 1;
    while (run < 128 && offset + run < width && same(offset, offset + run)) run += 1;
    if (run > 1) {
      out[end++] = 127 + run;
      out.set(row.subarray(offset * stride, (offset + 1) * stride), end);
      end += stride;
      offset += run;
      continue;
    }
    let count = 1;
    while (
      count < 128 &&
      offset + count < width &&
      !(offset + count + 1 < width && same(offset + count, offset + count + 1))
    )
      count += 1;
    out[end++] = count - 1;
    out.set(row.subarray(offset * stride, (offset + count) * stride), end);
    end += count * stride;
    offset += count;
  }
  return out.subarray(0, end);
}
