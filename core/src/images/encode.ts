import sharp from 'sharp';
import type { PixelBuffer } from './pixelBuffer.ts';

/** Encodes 8- or 16-bit pixels as PNG; the same pixels always give the same bytes. Floats must be quantised first. */
export async function encodePng(buffer: PixelBuffer): Promise<Uint8Array> {
  const { width, height, components, data } = buffer;
  if (data instanceof Float32Array) throw new TypeError('PNG holds 8 or 16 bits; quantise float pixels first');
  const image = sharp(data, { raw: { width, height, channels: components as 1 | 2 | 3 | 4 }, limitInputPixels: false });
  const wide = data instanceof Uint16Array ? image.toColourspace(components < 3 ? 'grey16' : 'rgb16') : image;
  return new Uint8Array(await wide.png({ compressionLevel: 6 }).toBuffer());
}
