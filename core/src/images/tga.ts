import { TGALoader } from 'three/addons/loaders/TGALoader.js';
import type { PixelBuffer } from './pixelBuffer.ts';

/** What the header of a TGA file states. */
export interface TgaHeader {
  width: number;
  height: number;
  components: number;
}

/** Size and components by the 18 bytes of the header; a palette counts by the depth of its entries. */
export function tgaHeader(bytes: Uint8Array): TgaHeader {
  const palette = bytes[2] === 1 || bytes[2] === 9;
  const bits = palette ? bytes[7] : bytes[16];
  const grey = bytes[2] === 3 || bytes[2] === 11;
  return {
    width: bytes[12] | (bytes[13] << 8),
    height: bytes[14] | (bytes[15] << 8),
    components: componentCount(grey, bits),
  };
}

function componentCount(grey: boolean, bits: number): number {
  if (grey) return bits === 16 ? 2 : 1;
  return bits === 32 ? 4 : 3;
}

/** Decodes TGA, top row first, with as many components as the file has. */
export function decodeTga(bytes: Uint8Array): PixelBuffer {
  const { components } = tgaHeader(bytes);
  const { data, width, height } = new TGALoader().parse(new Uint8Array(bytes).buffer) as {
    data: Uint8Array;
    width: number;
    height: number;
  };
  if (components === 4) return { width, height, components, data: new Uint8Array(data) };
  const out = new Uint8Array(width * height * components);
  for (let i = 0; i < width * height; i += 1) {
    for (let k = 0; k < components; k += 1)
      out[i * components + k] = data[i * 4 + (components === 2 && k === 1 ? 3 : k)];
  }
  return { width, height, components, data: out };
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
