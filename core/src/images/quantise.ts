import { encodeSrgb } from '../colour/transfer.ts';
import type { PixelBuffer } from './pixelBuffer.ts';

/** Pixels as 8 bits: 16-bit ones rounded, floats encoded as sRGB and clipped to 0..1. */
export function toBytes(buffer: PixelBuffer): PixelBuffer {
  const { data } = buffer;
  if (data instanceof Uint8Array) return buffer;
  const bytes =
    data instanceof Uint16Array
      ? Uint8Array.from(data, (value) => Math.round(value / 257))
      : Uint8Array.from(data, (value) => Math.round(Math.min(1, Math.max(0, encodeSrgb(value))) * 255));
  return { ...buffer, data: bytes };
}
