import { decodeBc6hBlock } from './bc6h.ts';
import { decodeBc7Block } from './bc7.ts';

/** Block formats of textures; a trailing `s` means signed. */
export type BlockFormat = 'bc1' | 'bc2' | 'bc3' | 'bc4' | 'bc4s' | 'bc5' | 'bc5s' | 'bc6h' | 'bc6hs' | 'bc7';

/** Bytes per block of 4 x 4 pixels, and components of the result. */
export const BLOCKS: Record<BlockFormat, { bytes: number; components: number }> = {
  bc1: { bytes: 8, components: 4 },
  bc2: { bytes: 16, components: 4 },
  bc3: { bytes: 16, components: 4 },
  bc4: { bytes: 8, components: 1 },
  bc4s: { bytes: 8, components: 1 },
  bc5: { bytes: 16, components: 2 },
  bc5s: { bytes: 16, components: 2 },
  bc6h: { bytes: 16, components: 3 },
  bc6hs: { bytes: 16, components: 3 },
  bc7: { bytes: 16, components: 4 },
};

/**
 * Decodes a picture of blocks, row by row from the top. Signed formats come as 0..255 with 128 for zero, BC6H
 * as floats. `complete` is false when bytes are missing; the pixels of missing blocks are 0. Format:
 * https://registry.khronos.org/DataFormat/specs/1.4/dataformat.1.4.html, chapters 18 to 20.
 */
export function decodeBlocks(
  body: Uint8Array,
  width: number,
  height: number,
  format: BlockFormat,
): { data: Uint8Array | Float32Array; complete: boolean } {
  const { bytes, components } = BLOCKS[format];
  const float = format.startsWith('bc6h');
  const data = float
    ? new Float32Array(width * height * components)
    : new Uint8Array(width * height * components);
  const block = float ? new Float32Array(16 * components) : new Uint8Array(16 * components);
  const across = Math.ceil(width / 4);
  const down = Math.ceil(height / 4);
  const complete = body.length >= across * down * bytes;
  for (let by = 0; by < down; by += 1) {
    for (let bx = 0; bx < across; bx += 1) {
      const offset = (by * across + bx) * bytes;
      if (offset + bytes > body.length) return { data, complete };
      decodeBlock(body, offset, format, block);
      for (let y = 0; y < 4 && by * 4 + y < height; y += 1) {
        for (let x = 0; x < 4 && bx * 4 + x < width; x += 1) {
          const to = ((by * 4 + y) * width + bx * 4 + x) * components;
          for (let k = 0; k < components; k += 1) data[to + k] = block[(y * 4 + x) * components + k];
        }
      }
    }
  }
  return { data, complete };
}

function decodeBlock(
  body: Uint8Array,
  offset: number,
  format: BlockFormat,
  out: Uint8Array | Float32Array,
): void {
  switch (format) {
    case 'bc1':
      return colourBlock(body, offset, true, out);
    case 'bc2':
      colourBlock(body, offset + 8, false, out);
      for (let i = 0; i < 16; i += 1) out[i * 4 + 3] = ((body[offset + (i >> 1)] >> ((i & 1) * 4)) & 15) * 17;
      return;
    case 'bc3':
      colourBlock(body, offset + 8, false, out);
      return numberBlock(body, offset, false, { out, stride: 4, offset: 3 });
    case 'bc4':
    case 'bc4s':
      return numberBlock(body, offset, format === 'bc4s', { out, stride: 1, offset: 0 });
    case 'bc5':
    case 'bc5s':
      numberBlock(body, offset, format === 'bc5s', { out, stride: 2, offset: 0 });
      return numberBlock(body, offset + 8, format === 'bc5s', { out, stride: 2, offset: 1 });
    case 'bc6h':
    case 'bc6hs':
      return decodeBc6hBlock(body, offset, format === 'bc6hs', out as Float32Array);
    default:
      return decodeBc7Block(body, offset, out as Uint8Array);
  }
}

/** Two 5:6:5 colours and two between; in BC1 the order of the two may mean three colours and clear black. */
function colourBlock(
  body: Uint8Array,
  offset: number,
  mayBeClear: boolean,
  out: Uint8Array | Float32Array,
): void {
  const a = body[offset] | (body[offset + 1] << 8);
  const b = body[offset + 2] | (body[offset + 3] << 8);
  const colours = [expand565(a), expand565(b)];
  const four = !mayBeClear || a > b;
  const between = (wa: number, wb: number, sum: number) =>
    [0, 1, 2].map((k) => Math.floor((wa * colours[0][k] + wb * colours[1][k] + (sum === 3 ? 1 : 0)) / sum));
  if (four) colours.push(between(2, 1, 3), between(1, 2, 3));
  else colours.push(between(1, 1, 2), [0, 0, 0]);
  for (let i = 0; i < 16; i += 1) {
    const index = (body[offset + 4 + (i >> 2)] >> ((i & 3) * 2)) & 3;
    for (let k = 0; k < 3; k += 1) out[i * 4 + k] = colours[index][k];
    out[i * 4 + 3] = !four && index === 3 ? 0 : 255;
  }
}

function expand565(value: number): number[] {
  const [r, g, b] = [(value >> 11) & 31, (value >> 5) & 63, value & 31];
  return [(r << 3) | (r >> 2), (g << 2) | (g >> 4), (b << 3) | (b >> 2)];
}

/** One component of interleaved pixels. */
interface Target {
  out: Uint8Array | Float32Array;
  stride: number;
  offset: number;
}

/** Two numbers and six or four between, three bits per pixel. */
function numberBlock(
  body: Uint8Array,
  position: number,
  signed: boolean,
  { out, stride, offset }: Target,
): void {
  const read = (byte: number) => (signed ? Math.max(-127, (byte << 24) >> 24) : byte);
  const [a, b] = [read(body[position]), read(body[position + 1])];
  const values = [a, b];
  if (a > b) for (let i = 1; i < 7; i += 1) values.push(((7 - i) * a + i * b) / 7);
  else {
    for (let i = 1; i < 5; i += 1) values.push(((5 - i) * a + i * b) / 5);
    values.push(signed ? -127 : 0, signed ? 127 : 255);
  }
  for (let i = 0; i < 16; i += 1) {
    const bit = 16 + i * 3;
    const low = body[position + (bit >> 3)] | ((body[position + (bit >> 3) + 1] ?? 0) << 8);
    const value = values[(low >> (bit & 7)) & 7];
    out[i * stride + offset] = signed ? Math.round(((value / 127) * 0.5 + 0.5) * 255) : Math.floor(value);
  }
}
