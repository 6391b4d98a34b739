import sharp, { type Sharp } from 'sharp';
import { KinkajouError } from '../errors.ts';
import { encodeExr } from './exr.ts';
import { encodeHdr } from './hdr.ts';
import { narrow, type PixelBuffer } from './pixelBuffer.ts';
import { encodeTga } from './tga.ts';
import { encodeFloatTiff } from './tiffFloat.ts';

/** Formats that images are written in. */
export const ENCODABLE = ['png', 'jpeg', 'tiff', 'tga', 'exr', 'hdr', 'webp'] as const;
/** One of {@link ENCODABLE}. */
export type EncodableFormat = (typeof ENCODABLE)[number];

/** What an image format leaves open. */
export interface EncodeOptions {
  /** Of EXR: 16 for half, 32 for float; 16 unless told. */
  depth?: 16 | 32;
  /** Of EXR: x, y of red, green, blue and white, to be stated in the header. */
  primaries?: readonly number[] | null;
  /** Of JPEG and lossy WebP, 1 to 100. WebP is lossless unless told. */
  quality?: number;
}

/**
 * Encodes pixels at their own depth; the same pixels always give the same bytes. PNG holds 8 and 16 bits,
 * TIFF also floats, EXR and HDR floats alone; JPEG, WebP and TGA hold 8 bits, to which 16-bit pixels are
 * rounded. Throws `image.encode` where a format cannot hold floats.
 */
export async function encodeImage(
  buffer: PixelBuffer,
  format: EncodableFormat,
  options: EncodeOptions = {},
): Promise<Uint8Array> {
  switch (format) {
    case 'png':
      return encodePng(buffer);
    case 'tiff':
      return encodeTiff(buffer);
    case 'tga':
      return encodeTga(narrow(buffer));
    case 'exr':
      return encodeExr(buffer, options.depth, options.primaries);
    case 'hdr':
      return encodeHdr(buffer);
    case 'jpeg':
      return new Uint8Array(
        await asSharp(narrow(buffer))
          .flatten({ background: '#000' })
          .jpeg({ quality: options.quality ?? 92, chromaSubsampling: '4:4:4' })
          .toBuffer(),
      );
    default:
      return new Uint8Array(
        await asSharp(narrow(buffer))
          .webp(
            options.quality === undefined ? { lossless: true, exact: true } : { quality: options.quality },
          )
          .toBuffer(),
      );
  }
}

/** Encodes 8- or 16-bit pixels as PNG. Floats must be quantised first. */
export async function encodePng(buffer: PixelBuffer): Promise<Uint8Array> {
  if (buffer.data instanceof Float32Array)
    throw new KinkajouError('image.encode', 'PNG holds 8 or 16 bits; floats must be quantised first');
  return new Uint8Array(await widened(buffer).png({ compressionLevel: 6 }).toBuffer());
}

async function encodeTiff(buffer: PixelBuffer): Promise<Uint8Array> {
  if (buffer.data instanceof Float32Array) return encodeFloatTiff(buffer);
  return new Uint8Array(
    await widened(buffer).tiff({ compression: 'deflate', predictor: 'horizontal' }).toBuffer(),
  );
}

function asSharp({ width, height, components, data }: PixelBuffer): Sharp {
  return sharp(data, {
    raw: { width, height, channels: components as 1 | 2 | 3 | 4 },
    limitInputPixels: false,
  });
}

/** 16-bit pixels are otherwise squeezed to 8 bits on output, and grey ones spread over three components. */
function widened(buffer: PixelBuffer): Sharp {
  const wide = buffer.data instanceof Uint16Array;
  const grey = buffer.components < 3;
  return asSharp(buffer).toColourspace(sharpSpace(wide, grey));
}

function sharpSpace(wide: boolean, grey: boolean): string | undefined {
  if (wide) return grey ? 'grey16' : 'rgb16';
  return grey ? 'b-w' : 'srgb';
}
