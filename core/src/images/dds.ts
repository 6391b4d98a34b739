import { KinkajouError } from '../errors.ts';
import { halfToNumber } from '../scene/half.ts';
import { BLOCKS, type BlockFormat, decodeBlocks } from './blocks.ts';
import type { PixelBuffer } from './pixelBuffer.ts';

/** How the first picture of a DDS file is held. */
export interface DdsHeader {
  width: number;
  height: number;
  components: number;
  bitDepth: 8 | 16 | 32;
  floating: boolean;
  layout: DdsLayout;
  /** Where its pixels begin. */
  start: number;
}

type DdsLayout =
  | { kind: 'blocks'; format: BlockFormat }
  | { kind: 'masks'; bytes: number; masks: [number, number, number, number]; grey: boolean }
  | { kind: 'numbers'; bits: 8 | 16 | 32; float: boolean; count: number; swap: boolean };

const FOURCC: Record<string, BlockFormat> = {
  DXT1: 'bc1',
  DXT2: 'bc2',
  DXT3: 'bc2',
  DXT4: 'bc3',
  DXT5: 'bc3',
  ATI1: 'bc4',
  BC4U: 'bc4',
  BC4S: 'bc4s',
  ATI2: 'bc5',
  BC5U: 'bc5',
  BC5S: 'bc5s',
};
/** DXGI format numbers of block formats. */
const DXGI_BLOCKS: Record<number, BlockFormat> = {
  70: 'bc1',
  71: 'bc1',
  72: 'bc1',
  73: 'bc2',
  74: 'bc2',
  75: 'bc2',
  76: 'bc3',
  77: 'bc3',
  78: 'bc3',
  79: 'bc4',
  80: 'bc4',
  81: 'bc4s',
  82: 'bc5',
  83: 'bc5',
  84: 'bc5s',
  94: 'bc6h',
  95: 'bc6h',
  96: 'bc6hs',
  97: 'bc7',
  98: 'bc7',
  99: 'bc7',
};
const DXGI_NUMBERS: Record<number, [8 | 16 | 32, boolean, number, boolean]> = {
  2: [32, true, 4, false],
  6: [32, true, 3, false],
  10: [16, true, 4, false],
  11: [16, false, 4, false],
  16: [32, true, 2, false],
  28: [8, false, 4, false],
  29: [8, false, 4, false],
  34: [16, true, 2, false],
  35: [16, false, 2, false],
  41: [32, true, 1, false],
  49: [8, false, 2, false],
  54: [16, true, 1, false],
  56: [16, false, 1, false],
  61: [8, false, 1, false],
  87: [8, false, 4, true],
  91: [8, false, 4, true],
};
/** Old FourCC numbers of float formats. */
const D3D_NUMBERS: Record<number, [8 | 16 | 32, boolean, number, boolean]> = {
  36: [16, false, 4, false],
  111: [16, true, 1, false],
  112: [16, true, 2, false],
  113: [16, true, 4, false],
  114: [32, true, 1, false],
  115: [32, true, 2, false],
  116: [32, true, 4, false],
};
const BLOCK_COMPONENTS: Record<BlockFormat, number> = {
  bc1: 4,
  bc2: 4,
  bc3: 4,
  bc4: 1,
  bc4s: 1,
  bc5: 2,
  bc5s: 2,
  bc6h: 3,
  bc6hs: 3,
  bc7: 4,
};

/**
 * Reads the header of a DDS file; its largest picture is the one that counts. Throws `image.broken` and
 * `image.format`.
 */
export function ddsHeader(bytes: Uint8Array, path: string): DdsHeader {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 128 || view.getUint32(4, true) !== 124)
    throw fault(path, 'its header is cut off or damaged');
  const height = view.getUint32(12, true);
  const width = view.getUint32(16, true);
  const flags = view.getUint32(80, true);
  const code = view.getUint32(84, true);
  const fourCC = String.fromCharCode(...bytes.subarray(84, 88));
  if (flags & 4) {
    if (fourCC === 'DX10') {
      if (bytes.length < 148) throw fault(path, 'its header is cut off');
      const dxgi = view.getUint32(128, true);
      if (DXGI_BLOCKS[dxgi]) return blockHeader(width, height, DXGI_BLOCKS[dxgi], 148);
      if (DXGI_NUMBERS[dxgi]) return numberHeader(width, height, DXGI_NUMBERS[dxgi], 148);
      throw new KinkajouError(
        'image.format',
        `DDS pixels of DXGI format ${dxgi} cannot be read`,
        { file: path },
        'Save it as PNG or TIFF.',
      );
    }
    if (FOURCC[fourCC]) return blockHeader(width, height, FOURCC[fourCC], 128);
    if (D3D_NUMBERS[code]) return numberHeader(width, height, D3D_NUMBERS[code], 128);
    throw new KinkajouError(
      'image.format',
      `DDS pixels of kind "${fourCC}" cannot be read`,
      { file: path },
      'Save it as PNG or TIFF.',
    );
  }
  const bits = view.getUint32(88, true);
  const masks = [92, 96, 100, 104].map((offset) => view.getUint32(offset, true)) as [
    number,
    number,
    number,
    number,
  ];
  if (![8, 16, 24, 32].includes(bits)) throw fault(path, 'its header states no pixel size');
  const grey = (flags & 0x20000) !== 0 || (masks[1] === 0 && masks[2] === 0);
  const alpha = (flags & 3) !== 0 && masks[3] !== 0;
  if (!alpha) masks[3] = 0;
  return {
    width,
    height,
    components: (grey ? 1 : 3) + (alpha ? 1 : 0),
    bitDepth: 8,
    floating: false,
    layout: { kind: 'masks', bytes: bits / 8, masks, grey },
    start: 128,
  };
}

/** How long a DDS file must be for its largest picture. */
export function ddsBytes(bytes: Uint8Array): number {
  const { width, height, layout, start } = ddsHeader(bytes, '');
  if (layout.kind === 'blocks')
    return start + Math.ceil(width / 4) * Math.ceil(height / 4) * BLOCKS[layout.format].bytes;
  return start + width * height * (layout.kind === 'masks' ? layout.bytes : (layout.bits / 8) * layout.count);
}

function blockHeader(width: number, height: number, format: BlockFormat, start: number): DdsHeader {
  const floating = format.startsWith('bc6h');
  return {
    width,
    height,
    components: BLOCK_COMPONENTS[format],
    bitDepth: floating ? 16 : 8,
    floating,
    layout: { kind: 'blocks', format },
    start,
  };
}

function numberHeader(
  width: number,
  height: number,
  [bits, float, count, swap]: [8 | 16 | 32, boolean, number, boolean],
  start: number,
): DdsHeader {
  return {
    width,
    height,
    components: count,
    bitDepth: bits,
    floating: float,
    layout: { kind: 'numbers', bits, float, count, swap },
    start,
  };
}

/** Decodes the largest picture of a DDS file, BC1 to BC7 and the usual plain layouts. */
export function decodeDds(bytes: Uint8Array, path: string): PixelBuffer {
  const { width, height, components, layout, start } = ddsHeader(bytes, path);
  const body = bytes.subarray(start);
  if (layout.kind === 'blocks') {
    const { data, complete } = decodeBlocks(body, width, height, layout.format);
    if (!complete) throw fault(path, 'its pixels are cut off');
    return { width, height, components, data };
  }
  const count = width * height;
  const size = layout.kind === 'masks' ? layout.bytes : (layout.bits / 8) * layout.count;
  if (body.length < count * size) throw fault(path, 'its pixels are cut off');
  const view = new DataView(body.buffer, body.byteOffset, body.byteLength);
  if (layout.kind === 'masks')
    return { width, height, components, data: readMasks(view, count, layout, components) };
  const { bits, float, swap } = layout;
  const data = pixelArray(float, count, components, bits);
  for (let i = 0; i < data.length; i += 1) {
    if (bits === 8) data[i] = body[i];
    else if (bits === 16 && float) data[i] = halfToNumber(view.getUint16(i * 2, true));
    else if (bits === 16) data[i] = view.getUint16(i * 2, true);
    else data[i] = view.getFloat32(i * 4, true);
  }
  if (swap) for (let i = 0; i < data.length; i += 4) [data[i], data[i + 2]] = [data[i + 2], data[i]];
  return { width, height, components, data };
}

function pixelArray(float: boolean, count: number, components: number, bits: number) {
  if (float) return new Float32Array(count * components);
  return bits === 8 ? new Uint8Array(count * components) : new Uint16Array(count * components);
}

function readMasks(
  view: DataView,
  count: number,
  layout: Extract<DdsLayout, { kind: 'masks' }>,
  components: number,
): Uint8Array {
  const { bytes, masks, grey } = layout;
  const required = [
    ...(grey ? [masks[0] || masks[3]] : masks.slice(0, 3)),
    ...(components % 2 === 0 ? [masks[3]] : []),
  ];
  const shifts = required.map((mask) => (mask === 0 ? 0 : 31 - Math.clz32(mask & -mask)));
  const tops = required.map((mask, k) => mask >>> shifts[k] || 1);
  const out = new Uint8Array(count * components);
  for (let i = 0; i < count; i += 1) {
    let pixel = 0;
    for (let b = 0; b < bytes; b += 1) pixel |= view.getUint8(i * bytes + b) << (b * 8);
    for (let k = 0; k < components; k += 1)
      out[i * components + k] = Math.round((((pixel & required[k]) >>> shifts[k]) * 255) / tops[k]);
  }
  return out;
}

function fault(path: string, why: string): KinkajouError {
  return new KinkajouError('image.broken', why, { file: path }, 'Save the image again.');
}
