import { FloatType } from 'three';
import { HDRLoader } from 'three/addons/loaders/HDRLoader.js';
import { type PixelBuffer, unitOf } from './pixelBuffer.ts';

/** Decodes Radiance HDR into floats, top row first. */
export function decodeHdr(bytes: Uint8Array): PixelBuffer {
  const { data, width, height } = new HDRLoader()
    .setDataType(FloatType)
    .parse(new Uint8Array(bytes).buffer) as {
    data: Float32Array;
    width: number;
    height: number;
  };
  const out = new Float32Array(width * height * 3);
  const given = data.length / (width * height);
  for (let i = 0; i < width * height; i += 1)
    for (let k = 0; k < 3; k += 1) out[i * 3 + k] = data[i * given + k];
  return { width, height, components: 3, data: out };
}

/**
 * Encodes floats as Radiance HDR with run-length coded rows; alpha is left out. Source: Ward, Real Pixels,
 * and the RGBE format.
 */
export function encodeHdr(buffer: PixelBuffer): Uint8Array {
  const { width, height, components, data } = buffer;
  const unit = unitOf(data);
  const pieces: Uint8Array[] = [
    new TextEncoder().encode(`#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y ${height} +X ${width}\n`),
  ];
  const row = new Uint8Array(width * 4);
  for (let y = 0; y < height; y += 1) {
    for (let x = 0; x < width; x += 1) {
      const from = (y * width + x) * components;
      const rgb = [0, 1, 2].map((k) => Math.max(0, data[from + (components < 3 ? 0 : k)] / unit));
      const largest = Math.max(...rgb);
      if (largest < 1e-32) {
        for (let k = 0; k < 4; k += 1) row[k * width + x] = 0;
        continue;
      }
      const exponent = Math.floor(Math.log2(largest)) + 1;
      const scale = 2 ** (8 - exponent);
      for (let k = 0; k < 3; k += 1) row[k * width + x] = Math.min(255, Math.floor(rgb[k] * scale));
      row[3 * width + x] = exponent + 128;
    }
    pieces.push(width >= 8 && width < 32768 ? codedRow(row, width) : plainRow(row, width));
  }
  const out = new Uint8Array(pieces.reduce((sum, piece) => sum + piece.length, 0));
  let offset = 0;
  for (const piece of pieces) {
    out.set(piece, offset);
    offset += piece.length;
  }
  return out;
}

function plainRow(row: Uint8Array, width: number): Uint8Array {
  return Uint8Array.from({ length: width * 4 }, (_, i) => row[(i % 4) * width + Math.floor(i / 4)]);
}

/** Each of the four planes as runs of at least four equal bytes, and what lies between. */
function codedRow(row: Uint8Array, width: number): Uint8Array {
  const out: number[] = [2, 2, width >> 8, width & 255];
  for (let plane = 0; plane < 4; plane += 1) {
    const start = plane * width;
    let offset = 0;
    while (offset < width) {
      let run = offset;
      let length = 0;
      while (run < width) {
        length = 1;
        while (length < 127 && run + length < width && row[start + run + length] === row[start + run])
          length += 1;
        if (length >= 4) break;
        run += length;
      }
      while (offset < run) {
        const count = Math.min(128, run - offset);
        out.push(count, ...row.subarray(start + offset, start + offset + count));
        offset += count;
      }
      if (offset < width && length >= 4) {
        out.push(128 + length, row[start + offset]);
        offset += length;
      }
    }
  }
  return Uint8Array.from(out);
}
