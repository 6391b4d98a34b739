import sharp from 'sharp';
import { KinkajouError } from '../errors.ts';
import { installedGuard } from '../guard/guard.ts';
import { DEFAULT_LIMITS, pastLimit } from '../parcel/limits.ts';
import { decodeBmp } from './bmp.ts';
import { decodeDds } from './dds.ts';
import type { DecodeOptions } from './decodeOptions.ts';
import { decodeExr } from './exr.ts';
import { decodeHdr } from './hdr.ts';
import { decodeKtx2 } from './ktx2.ts';
import type { PixelArray, PixelBuffer } from './pixelBuffer.ts';
import { type ImageInfo, probeImage } from './probe.ts';
import { decodePsd } from './psd.ts';
import { decodeTga } from './tga.ts';

/**
 * Decodes an image at its own bit depth, without any colour conversion: embedded profiles are not applied,
 * since the colour tag decides how numbers are read. Throws the errors of `probeImage`, `limit.imageBytes`
 * where the pixels would take more memory than one image may, and `image.broken` for damaged pixels.
 */
export async function decodeImage(
  bytes: Uint8Array,
  path: string,
  options: DecodeOptions = {},
): Promise<PixelBuffer> {
  const limits = options.limits ?? DEFAULT_LIMITS;
  const info = await probeImage(bytes, path, limits);
  const needed = decodedBytes(info, options.maxSize);
  if (needed > limits.imageBytes) throw pastLimit('imageBytes', path, needed, limits.imageBytes);
  const guard = installedGuard();
  // That library decodes in threads of its own and knows a deadline.
  if (SHARP.has(info.format) || !guard) return decodeHere(bytes, path, info, options);
  return guard.decode(bytes, path, info, options);
}

/** The same in this thread, whatever it takes, of an image whose header was read. */
export async function decodeHere(
  bytes: Uint8Array,
  path: string,
  info: ImageInfo,
  options: DecodeOptions,
): Promise<PixelBuffer> {
  try {
    if (SHARP.has(info.format)) return await decodeWithSharp(bytes, info, options);
    return await shrink(await decodeItself(bytes, path, info, options), options.maxSize);
  } catch (error) {
    if (error instanceof KinkajouError) throw error;
    const broken = new KinkajouError(
      'image.broken',
      'its pixels are damaged or cut off',
      { file: path },
      'Export or copy the image again.',
    );
    broken.cause = error;
    throw broken;
  }
}

/**
 * What the pixels take at their own size; that library makes them small as it reads them, the others after.
 */
function decodedBytes({ format, width, height, components, bitDepth }: ImageInfo, maxSize = 0): number {
  const bytes = width * height * components * (bitDepth / 8);
  const share = maxSize > 0 && SHARP.has(format) ? Math.min(1, maxSize / Math.max(width, height)) ** 2 : 1;
  return Math.ceil(bytes * share);
}

const SHARP = new Set<ImageInfo['format']>(['png', 'jpeg', 'tiff', 'webp', 'avif', 'gif']);

/** Whether images of a format are decoded outside of this thread, which goes on meanwhile. */
export function isDecodedBeside(format: ImageInfo['format']): boolean {
  return SHARP.has(format);
}

function decodeItself(
  bytes: Uint8Array,
  path: string,
  { format }: ImageInfo,
  { layer }: DecodeOptions,
): PixelBuffer | Promise<PixelBuffer> {
  switch (format) {
    case 'tga':
      return decodeTga(bytes);
    case 'exr':
      return decodeExr(bytes, path, layer);
    case 'hdr':
      return decodeHdr(bytes);
    case 'psd':
      return decodePsd(bytes, path);
    case 'dds':
      return decodeDds(bytes, path);
    case 'ktx2':
      return decodeKtx2(bytes, path);
    default:
      return decodeBmp(bytes, path);
  }
}

async function decodeWithSharp(
  bytes: Uint8Array,
  { bitDepth, floating, components, width, height }: ImageInfo,
  { maxSize = 0, limits = DEFAULT_LIMITS }: DecodeOptions,
): Promise<PixelBuffer> {
  const seconds = Math.ceil(limits.seconds + (width * height) / 1e6);
  let image = sharp(bytes, { limitInputPixels: false, ignoreIcc: true }).timeout({
    seconds: Math.min(3600, seconds),
  });
  if (maxSize > 0) image = image.resize(maxSize, maxSize, { fit: 'inside', withoutEnlargement: true });
  const depth = sharpDepth(floating, bitDepth);
  // Left alone, the library squeezes 16 bits to 8, encodes floats as sRGB, and spreads grey over three
  // components.
  if (floating && components === 1) image = image.pipelineColourspace('b-w').toColourspace('b-w');
  else if (floating && components > 2) image = image.toColourspace('scrgb');
  else if (depth === 'ushort') image = image.toColourspace(components < 3 ? 'grey16' : 'rgb16');
  else if (components === 1) image = image.toColourspace('b-w');
  const { data, info } = await image.raw({ depth }).toBuffer({ resolveWithObject: true });
  const pixels = viewPixels(data, depth);
  const size = { width: info.width, height: info.height };
  // Of grey with alpha the library drops the alpha, unless the grey is spread over three components.
  if (components === 2 && info.channels === 4)
    return { ...size, components: 2, data: pixels.filter((_, i) => i % 4 === 0 || i % 4 === 3) };
  // What stands behind the alpha is no part of the picture.
  if (info.channels > 4)
    return { ...size, components: 4, data: pixels.filter((_, i) => i % info.channels < 4) };
  return { ...size, components: info.channels, data: pixels };
}

function sharpDepth(floating: boolean, bitDepth: number) {
  if (floating) return 'float';
  return bitDepth === 8 ? 'uchar' : 'ushort';
}

function viewPixels(data: Buffer, depth: 'uchar' | 'ushort' | 'float'): PixelArray {
  if (depth === 'uchar') return new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
  const aligned = data.byteOffset % 4 === 0 ? data : Buffer.from(new Uint8Array(data).buffer);
  if (depth === 'ushort') return new Uint16Array(aligned.buffer, aligned.byteOffset, aligned.byteLength / 2);
  return new Float32Array(aligned.buffer, aligned.byteOffset, aligned.byteLength / 4);
}

async function shrink(buffer: PixelBuffer, maxSize = 0): Promise<PixelBuffer> {
  if (
    maxSize === 0 ||
    Math.max(buffer.width, buffer.height) <= maxSize ||
    !(buffer.data instanceof Uint8Array)
  )
    return buffer;
  const { data, info } = await sharp(buffer.data, {
    raw: { width: buffer.width, height: buffer.height, channels: buffer.components as 4 },
  })
    .resize(maxSize, maxSize, { fit: 'inside' })
    .raw()
    .toBuffer({ resolveWithObject: true });
  return {
    width: info.width,
    height: info.height,
    components: info.channels,
    data: viewPixels(data, 'uchar'),
  };
}
