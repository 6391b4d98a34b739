import { narrow, type PixelBuffer } from '../images/pixelBuffer.ts';
import { encodeSrgb } from '../scene/transfer.ts';

/** Pixels as 8 bits: 16-bit ones rounded, floats encoded as sRGB and clipped to 0..1. */
export function toBytes(buffer: PixelBuffer): PixelBuffer {
  const { data } = buffer;
  if (!(data instanceof Float32Array)) return narrow(buffer);
  return {
    ...buffer,
    data: Uint8Array.from(data, (value) => Math.round(Math.min(1, Math.max(0, encodeSrgb(value))) * 255)),
  };
}
