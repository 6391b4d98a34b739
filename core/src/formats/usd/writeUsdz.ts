import { crc32 } from 'node:zlib';
import { ByteSink } from '../byteSink.ts';

const ALIGNMENT = 64;
const LOCAL_HEADER = 30;
/** 1 January 1980, the first day that a zip can say. */
const DOS_DATE = 0x0021;

/**
 * Packs files as a USDZ package: stored, each file's bytes at a multiple of 64, the first file being the root
 * layer. Specification: https://openusd.org/release/spec_usdz.html
 */
export function writeUsdz(files: Map<string, Uint8Array>): Uint8Array {
  const out = new ByteSink();
  const directory: { name: Uint8Array; bytes: Uint8Array; at: number; crc: number }[] = [];
  for (const [path, bytes] of files) {
    const name = new TextEncoder().encode(path);
    const offset = out.length;
    const start = offset + LOCAL_HEADER + name.length;
    // An extra field has a header of four bytes, so the gap is either none or at least four.
    let pad = (ALIGNMENT - (start % ALIGNMENT)) % ALIGNMENT;
    if (pad > 0 && pad < 4) pad += ALIGNMENT;
    const crc = crc32(bytes);
    out.u32(0x04034b50);
    writeCommon(out, { crc, size: bytes.length, nameLength: name.length, extra: pad });
    out.bytes(name);
    if (pad > 0) {
      out.u8(0x86);
      out.u8(0x19);
      out.u8((pad - 4) & 255);
      out.u8((pad - 4) >> 8);
      out.zeros(pad - 4);
    }
    out.bytes(bytes);
    directory.push({ name, bytes, at: offset, crc });
  }
  const start = out.length;
  for (const { name, bytes, at: position, crc } of directory) {
    out.u32(0x02014b50);
    u16(out, 20);
    writeCommon(out, { crc, size: bytes.length, nameLength: name.length, extra: 0 });
    u16(out, 0);
    u16(out, 0);
    u16(out, 0);
    out.u32(0);
    out.u32(position);
    out.bytes(name);
  }
  const size = out.length - start;
  out.u32(0x06054b50);
  u16(out, 0);
  u16(out, 0);
  u16(out, directory.length);
  u16(out, directory.length);
  out.u32(size);
  out.u32(start);
  u16(out, 0);
  return out.finish();
}

function writeCommon(
  out: ByteSink,
  { crc, size, nameLength, extra }: Record<'crc' | 'size' | 'nameLength' | 'extra', number>,
): void {
  u16(out, 20);
  u16(out, 0x0800);
  u16(out, 0);
  u16(out, 0);
  u16(out, DOS_DATE);
  out.u32(crc);
  out.u32(size);
  out.u32(size);
  u16(out, nameLength);
  u16(out, extra);
}

function u16(out: ByteSink, value: number): void {
  out.u8(value & 255);
  out.u8(value >> 8);
}
