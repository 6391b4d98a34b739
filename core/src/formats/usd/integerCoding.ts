import { KinkajouError } from '../../errors.ts';
import { packBlocks, unpackBlocks } from './lz4.ts';

/**
 * Whole numbers as binary USD packs them: the commonest difference between neighbours, two bits per number
 * telling how its difference is held (0 the commonest, 1 to 3 in 8, 16 or 32 bits), the differences, all
 * packed by LZ4.
 */
export function decodeIntegers(packed: Uint8Array, count: number): Int32Array {
  const codeBytes = Math.ceil((count * 2) / 8);
  const bytes = unpackAtMost(packed, 4 + codeBytes + count * 4);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const out = new Int32Array(count);
  if (count === 0) return out;
  if (bytes.length < 4 + codeBytes) throw broken();
  const common = view.getInt32(0, true);
  let offset = 4 + codeBytes;
  let last = 0;
  for (let i = 0; i < count; i += 1) {
    const code = (bytes[4 + (i >> 2)] >> ((i & 3) * 2)) & 3;
    if (offset + (code === 3 ? 4 : code) > bytes.length) throw broken();
    if (code === 0) last = (last + common) | 0;
    else if (code === 1) last = (last + view.getInt8(offset)) | 0;
    else if (code === 2) last = (last + view.getInt16(offset, true)) | 0;
    else last = (last + view.getInt32(offset, true)) | 0;
    offset += code === 3 ? 4 : code;
    out[i] = last;
  }
  return out;
}

/** As {@link decodeIntegers}, for 64-bit numbers: differences in 16, 32 or 64 bits. */
export function decodeIntegers64(packed: Uint8Array, count: number): BigInt64Array {
  const codeBytes = Math.ceil((count * 2) / 8);
  const bytes = unpackAtMost(packed, 8 + codeBytes + count * 8);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const out = new BigInt64Array(count);
  if (count === 0) return out;
  if (bytes.length < 8 + codeBytes) throw broken();
  const common = view.getBigInt64(0, true);
  let offset = 8 + codeBytes;
  let last = 0n;
  for (let i = 0; i < count; i += 1) {
    const code = (bytes[8 + (i >> 2)] >> ((i & 3) * 2)) & 3;
    const size = code === 0 ? 0 : 1 << code;
    if (offset + size > bytes.length) throw broken();
    if (code === 0) last += common;
    else if (code === 1) last += BigInt(view.getInt16(offset, true));
    else if (code === 2) last += BigInt(view.getInt32(offset, true));
    else last += view.getBigInt64(offset, true);
    offset += size;
    out[i] = last;
  }
  return out;
}

/** Packs 32-bit whole numbers the way {@link decodeIntegers} reads them. */
export function encodeIntegers(values: ArrayLike<number>): Uint8Array {
  const count = values.length;
  const codeBytes = Math.ceil((count * 2) / 8);
  const bytes = new Uint8Array(4 + codeBytes + count * 4);
  const view = new DataView(bytes.buffer);
  const common = commonestDifference(values);
  view.setInt32(0, common, true);
  let offset = 4 + codeBytes;
  let last = 0;
  for (let i = 0; i < count; i += 1) {
    const difference = (values[i] - last) | 0;
    last = values[i] | 0;
    if (difference === common) continue;
    const code = widthCode(difference);
    bytes[4 + (i >> 2)] |= code << ((i & 3) * 2);
    if (code === 1) view.setInt8(offset, difference);
    else if (code === 2) view.setInt16(offset, difference, true);
    else view.setInt32(offset, difference, true);
    offset += code === 3 ? 4 : code;
  }
  return packBlocks(bytes.subarray(0, offset));
}

function widthCode(difference: number) {
  if (difference >= -128 && difference <= 127) return 1;
  return difference >= -32768 && difference <= 32767 ? 2 : 3;
}

function commonestDifference(values: ArrayLike<number>): number {
  const counts = new Map<number, number>();
  let best = 0;
  let most = 0;
  let last = 0;
  for (let i = 0; i < values.length; i += 1) {
    const difference = (values[i] - last) | 0;
    last = values[i] | 0;
    const seen = (counts.get(difference) ?? 0) + 1;
    counts.set(difference, seen);
    if (seen > most) {
      most = seen;
      best = difference;
    }
  }
  return best;
}

/** The unpacked length is not written, so the block is unpacked into the largest it can be. */
function unpackAtMost(packed: Uint8Array, size: number): Uint8Array {
  return unpackBlocks(packed, size, true);
}

function broken(): KinkajouError {
  return new KinkajouError('usd.broken', 'a list of packed numbers is cut off');
}
