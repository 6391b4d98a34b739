import { KinkajouError } from '../errors.ts';

/** Components in 0..255, 0..65535, or as floats. */
export type PixelArray = Uint8Array | Uint16Array | Float32Array;

/** Interleaved pixels, top row first. Values are 0..255, 0..65535, or floats as stored. */
export interface PixelBuffer {
  width: number;
  height: number;
  /** 1 to 4. */
  components: number;
  data: PixelArray;
}

/** The number that stands for 1.0 in the buffer. */
export function unitOf(data: PixelArray): number {
  if (data instanceof Uint8Array) return 255;
  return data instanceof Uint16Array ? 65535 : 1;
}

/**
 * Value of one component at a pixel, with 1.0 for full scale; alpha is 1 where there is none, grey repeats.
 */
export function pixelAt(buffer: PixelBuffer, x: number, y: number, component: 0 | 1 | 2 | 3): number {
  const { components, data, width } = buffer;
  const offset = (y * width + x) * components;
  const unit = unitOf(data);
  if (component === 3) {
    if (components === 4) return data[offset + 3] / unit;
    return components === 2 ? data[offset + 1] / unit : 1;
  }
  return data[offset + (components < 3 ? 0 : component)] / unit;
}

/**
 * Pixels as 8 bits, 16-bit ones rounded. Throws `image.encode` for floats, which need a transfer curve first.
 */
export function narrow(buffer: PixelBuffer): PixelBuffer {
  const { data } = buffer;
  if (data instanceof Uint8Array) return buffer;
  if (data instanceof Float32Array)
    throw new KinkajouError('image.encode', '8 bits do not hold floats; quantise them first');
  return { ...buffer, data: Uint8Array.from(data, (value) => Math.round(value / 257)) };
}
