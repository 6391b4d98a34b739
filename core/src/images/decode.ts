import sharp from 'sharp';
import { DataUtils, FloatType } from 'three';
import { EXRLoader } from 'three/addons/loaders/EXRLoader.js';
import { HDRLoader } from 'three/addons/loaders/HDRLoader.js';
import { TGALoader } from 'three/addons/loaders/TGALoader.js';
import { KinkajouError } from '../errors.ts';
import { DEFAULT_LIMITS, type Limits } from '../parcel/limits.ts';
import type { PixelArray, PixelBuffer } from './pixelBuffer.ts';
import { probeImage } from './probe.ts';

export interface DecodeOptions {
  /** Longest side; larger images are averaged down. 0 keeps the size. */
  maxSize?: number;
  limits?: Limits;
}

/**
 * Decodes an image at its own bit depth, without any colour conversion: embedded profiles are not applied, since the
 * colour tag decides how numbers are read. Throws the errors of `probeImage`, and `image.broken` for damaged pixels.
 */
export async function decodeImage(bytes: Uint8Array, path: string, options: DecodeOptions = {}): Promise<PixelBuffer> {
  const info = await probeImage(bytes, path, options.limits ?? DEFAULT_LIMITS);
  try {
    if (info.format === 'tga') return shrink(decodeTga(bytes), options.maxSize);
    if (info.format === 'exr' || info.format === 'hdr') return decodeFloat(bytes, info.format);
    return await decodeWithSharp(bytes, info.bitDepth, info.floating, options.maxSize ?? 0);
  } catch (error) {
    if (error instanceof KinkajouError) throw error;
    const reason = error instanceof Error ? error.message.split('\n')[0] : String(error);
    throw new KinkajouError('image.broken', `its pixels cannot be read (${reason})`, { file: path }, 'Export the image again.');
  }
}

async function decodeWithSharp(bytes: Uint8Array, bitDepth: number, floating: boolean, maxSize: number): Promise<PixelBuffer> {
  let image = sharp(bytes, { limitInputPixels: false, ignoreIcc: true });
  if (maxSize > 0) image = image.resize(maxSize, maxSize, { fit: 'inside', withoutEnlargement: true });
  const depth = floating ? 'float' : bitDepth === 8 ? 'uchar' : 'ushort';
  // 16-bit images are otherwise squeezed to 8 bits on output.
  if (depth === 'ushort') image = image.toColourspace((await image.metadata()).channels < 3 ? 'grey16' : 'rgb16');
  const { data, info } = await image.raw({ depth }).toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, components: info.channels, data: viewPixels(data, depth) };
}

function viewPixels(data: Buffer, depth: 'uchar' | 'ushort' | 'float'): PixelArray {
  if (depth === 'uchar') return new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
  const own = data.byteOffset % 4 === 0 ? data : Buffer.from(new Uint8Array(data).buffer);
  if (depth === 'ushort') return new Uint16Array(own.buffer, own.byteOffset, own.byteLength / 2);
  return new Float32Array(own.buffer, own.byteOffset, own.byteLength / 4);
}

function decodeTga(bytes: Uint8Array): PixelBuffer {
  const texture = new TGALoader().parse(exactBuffer(bytes)) as { data: Uint8Array; width: number; height: number };
  return { width: texture.width, height: texture.height, components: 4, data: new Uint8Array(texture.data) };
}

async function shrink(buffer: PixelBuffer, maxSize = 0): Promise<PixelBuffer> {
  if (maxSize === 0 || Math.max(buffer.width, buffer.height) <= maxSize) return buffer;
  const { data, info } = await sharp(buffer.data as Uint8Array, { raw: { width: buffer.width, height: buffer.height, channels: buffer.components as 4 } })
    .resize(maxSize, maxSize, { fit: 'inside' })
    .raw()
    .toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, components: info.channels, data: viewPixels(data, 'uchar') };
}

/** The codecs hand rows bottom first; the buffer has the top row first. */
function decodeFloat(bytes: Uint8Array, format: 'exr' | 'hdr'): PixelBuffer {
  const loader = format === 'exr' ? new EXRLoader().setDataType(FloatType) : new HDRLoader().setDataType(FloatType);
  const { data, width, height } = loader.parse(exactBuffer(bytes)) as { data: Float32Array | Uint16Array; width: number; height: number };
  const floats = data instanceof Float32Array ? data : Float32Array.from(data, (half) => DataUtils.fromHalfFloat(half));
  const components = floats.length / (width * height);
  if (format === 'hdr') return { width, height, components, data: floats };
  const flipped = new Float32Array(floats.length);
  const row = width * components;
  for (let y = 0; y < height; y += 1) flipped.set(floats.subarray((height - 1 - y) * row, (height - y) * row), y * row);
  return { width, height, components, data: flipped };
}

function exactBuffer(bytes: Uint8Array): ArrayBuffer {
  return new Uint8Array(bytes).buffer;
}
