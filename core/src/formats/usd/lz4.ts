import { KinkajouError } from '../../errors.ts';

/** Longest input that one LZ4 block may have. */
const MAX_BLOCK = 0x7e000000;
const MIN_MATCH = 4;
/** A block ends in at least this many literals, and no match starts in its last 12 bytes. */
const LAST_LITERALS = 5;
const MATCH_LIMIT = 12;
const HASH_BITS = 16;

/**
 * Unpacks the blocks of binary USD: a byte with the number of chunks (0 for a single one), then LZ4 blocks,
 * each with its length before it when there are several. With `atMost`, `size` is only a bound. Throws
 * `usd.broken` when the data does not fit. Format:
 * https://github.com/lz4/lz4/blob/dev/doc/lz4_Block_format.md
 */
export function unpackBlocks(packed: Uint8Array, size: number, atMost = false): Uint8Array {
  // No block unpacks to more than 255 times its length, whatever it announces.
  if (size > packed.length * 255 + 16 && !atMost)
    throw broken('a packed block announces more than it can hold');
  const out = new Uint8Array(Math.min(size, packed.length * 255 + 16));
  if (packed.length === 0) return out;
  const settle = (end: number) => {
    if (end !== size && !atMost) throw broken('a packed block has a false length');
    return end === out.length ? out : out.subarray(0, end);
  };
  const chunks = packed[0];
  if (chunks === 0) return settle(unpackBlock(packed.subarray(1), out, 0));
  const view = new DataView(packed.buffer, packed.byteOffset, packed.byteLength);
  let offset = 1;
  let end = 0;
  for (let i = 0; i < chunks; i += 1) {
    if (offset + 4 > packed.length) throw broken('a packed block is cut off');
    const length = view.getInt32(offset, true);
    offset += 4;
    if (length < 0 || offset + length > packed.length) throw broken('a packed block is cut off');
    end = unpackBlock(packed.subarray(offset, offset + length), out, end);
    offset += length;
  }
  return settle(end);
}

function unpackBlock(source: Uint8Array, out: Uint8Array, start: number): number {
  let offset = 0;
  let end = start;
  while (offset < source.length) {
    const token = source[offset];
    offset += 1;
    let literals = token >> 4;
    if (literals === 15) {
      let more = 255;
      while (more === 255) {
        if (offset >= source.length) throw broken('a packed block is cut off');
        more = source[offset];
        offset += 1;
        literals += more;
      }
    }
    if (offset + literals > source.length || end + literals > out.length)
      throw broken('a packed block is damaged');
    out.set(source.subarray(offset, offset + literals), end);
    offset += literals;
    end += literals;
    if (offset >= source.length) return end;
    const distance = source[offset] | (source[offset + 1] << 8);
    offset += 2;
    let length = (token & 15) + MIN_MATCH;
    if (length === 15 + MIN_MATCH) {
      let more = 255;
      while (more === 255) {
        if (offset >= source.length) throw broken('a packed block is cut off');
        more = source[offset];
        offset += 1;
        length += more;
      }
    }
    const from = end - distance;
    if (distance === 0 || from < 0 || end + length > out.length) throw broken('a packed block is damaged');
    if (distance >= length) out.copyWithin(end, from, from + length);
    else for (let i = 0; i < length; i += 1) out[end + i] = out[from + i];
    end += length;
  }
  return end;
}

/** Packs bytes the way {@link unpackBlocks} reads them, as one chunk. The same bytes always pack the same. */
export function packBlocks(source: Uint8Array): Uint8Array {
  if (source.length > MAX_BLOCK)
    throw new KinkajouError('usd.size', 'one array is larger than binary USD can hold in a block');
  const out = new Uint8Array(1 + source.length + Math.ceil(source.length / 255) + 16);
  let end = 1;
  const table = new Int32Array(1 << HASH_BITS).fill(-1);
  let anchor = 0;
  let offset = 0;
  const limit = source.length - MATCH_LIMIT;
  const writeLength = (length: number) => {
    let rest = length;
    for (; rest >= 255; rest -= 255) out[end++] = 255;
    out[end++] = rest;
  };
  const writeSequence = (literals: number, match: number, distance: number) => {
    const extra = match - MIN_MATCH;
    out[end++] = (Math.min(15, literals) << 4) | (match > 0 ? Math.min(15, extra) : 0);
    if (literals >= 15) writeLength(literals - 15);
    out.set(source.subarray(anchor, anchor + literals), end);
    end += literals;
    if (match === 0) return;
    out[end++] = distance & 255;
    out[end++] = distance >> 8;
    if (extra >= 15) writeLength(extra - 15);
  };
  while (offset < limit) {
    const word =
      source[offset] | (source[offset + 1] << 8) | (source[offset + 2] << 16) | (source[offset + 3] << 24);
    const slot = Math.imul(word, 0x9e3779b1) >>> (32 - HASH_BITS);
    const candidate = table[slot];
    table[slot] = offset;
    const same =
      candidate >= 0 &&
      offset - candidate < 0x10000 &&
      source[candidate] === source[offset] &&
      source[candidate + 1] === source[offset + 1];
    if (
      !same ||
      source[candidate + 2] !== source[offset + 2] ||
      source[candidate + 3] !== source[offset + 3]
    ) {
      // The longer nothing matches, the larger the steps.
      offset += 1 + ((offset - anchor) >> 6);
      continue;
    }
    let length = MIN_MATCH;
    const most = source.length - LAST_LITERALS - offset;
    while (length < most && source[candidate + length] === source[offset + length]) length += 1;
    writeSequence(offset - anchor, length, offset - candidate);
    offset += length;
    anchor = offset;
  }
  writeSequence(source.length - anchor, 0, 0);
  return out.slice(0, end);
}

function broken(message: string): KinkajouError {
  return new KinkajouError('usd.broken', message);
}
