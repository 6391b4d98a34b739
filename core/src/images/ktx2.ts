import { readFile } from 'node:fs/promises';
import nodeModule from 'node:module';
import { dirname, join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { inflateSync } from 'node:zlib';
import { type KTX2Container, read as readContainer } from 'ktx-parse';
import { ZSTDDecoder } from 'zstddec';
import { KinkajouError } from '../errors.ts';
import { halfToNumber } from '../scene/half.ts';
import { BLOCKS, type BlockFormat, decodeBlocks } from './blocks.ts';
import type { PixelBuffer } from './pixelBuffer.ts';

/** What the header of a KTX 2 file states. */
export interface Ktx2Header {
  width: number;
  height: number;
  components: number;
  bitDepth: 8 | 16 | 32;
  floating: boolean;
}

type Layout =
  | { kind: 'basis' }
  | { kind: 'blocks'; format: BlockFormat }
  | { kind: 'numbers'; bits: 8 | 16 | 32; float: boolean; count: number; swap: boolean };

const numbers = (bits: 8 | 16 | 32, float: boolean, count: number, swap = false): Layout => ({
  kind: 'numbers',
  bits,
  float,
  count,
  swap,
});
/** Vulkan format numbers of plain layouts. */
const NUMBERS: Record<number, Layout> = {
  9: numbers(8, false, 1),
  15: numbers(8, false, 1),
  16: numbers(8, false, 2),
  22: numbers(8, false, 2),
  23: numbers(8, false, 3),
  29: numbers(8, false, 3),
  30: numbers(8, false, 3, true),
  36: numbers(8, false, 3, true),
  37: numbers(8, false, 4),
  43: numbers(8, false, 4),
  44: numbers(8, false, 4, true),
  50: numbers(8, false, 4, true),
  70: numbers(16, false, 1),
  76: numbers(16, true, 1),
  77: numbers(16, false, 2),
  83: numbers(16, true, 2),
  84: numbers(16, false, 3),
  90: numbers(16, true, 3),
  91: numbers(16, false, 4),
  97: numbers(16, true, 4),
  100: numbers(32, true, 1),
  103: numbers(32, true, 2),
  106: numbers(32, true, 3),
  109: numbers(32, true, 4),
};
/** Vulkan format numbers of block layouts. */
const BLOCK_FORMATS: Record<number, BlockFormat> = {
  131: 'bc1',
  132: 'bc1',
  133: 'bc1',
  134: 'bc1',
  135: 'bc2',
  136: 'bc2',
  137: 'bc3',
  138: 'bc3',
  139: 'bc4',
  140: 'bc4s',
  141: 'bc5',
  142: 'bc5s',
  143: 'bc6h',
  144: 'bc6hs',
  145: 'bc7',
  146: 'bc7',
};
const ZSTD = 2;
const ZLIB = 3;
const RGBA32 = 13;

/** Reads the header of a KTX2 file. Throws `image.broken` and `image.format`. */
export function ktx2Header(bytes: Uint8Array, path: string): Ktx2Header {
  const { container, layout } = open(bytes, path);
  const { pixelWidth: width, pixelHeight: height } = container;
  if (layout.kind === 'numbers')
    return { width, height, components: layout.count, bitDepth: layout.bits, floating: layout.float };
  if (layout.kind === 'basis') return { width, height, components: 4, bitDepth: 8, floating: false };
  const floating = layout.format.startsWith('bc6h');
  return {
    width,
    height,
    components: BLOCKS[layout.format].components,
    bitDepth: floating ? 16 : 8,
    floating,
  };
}

function open(bytes: Uint8Array, path: string): { container: KTX2Container; layout: Layout } {
  let container: KTX2Container;
  try {
    container = readContainer(bytes);
  } catch {
    throw new KinkajouError('image.broken', 'its header is damaged', { file: path }, 'Save the image again.');
  }
  const { vkFormat } = container;
  const format = BLOCK_FORMATS[vkFormat];
  const layout: Layout | undefined = layoutOf(vkFormat, format);
  if (!layout)
    throw new KinkajouError(
      'image.format',
      `KTX2 pixels of Vulkan format ${vkFormat} cannot be read`,
      { file: path },
      'Save it as PNG or TIFF.',
    );
  return { container, layout };
}

function layoutOf(vkFormat: number, format: BlockFormat | undefined): Layout | undefined {
  if (vkFormat === 0) return { kind: 'basis' };
  return format ? { kind: 'blocks', format } : NUMBERS[vkFormat];
}

/**
 * Decodes the largest picture of a KTX2 file: plain numbers, BC1 to BC7, and Basis Universal, with or without
 * Zstandard or zlib.
 */
export async function decodeKtx2(bytes: Uint8Array, path: string): Promise<PixelBuffer> {
  const { container, layout } = open(bytes, path);
  const { pixelWidth: width, pixelHeight: height } = container;
  if (layout.kind === 'basis') return transcodeBasis(bytes, path);
  const [level] = container.levels;
  let body = level.levelData;
  if (container.supercompressionScheme === ZSTD) {
    const decoder = new ZSTDDecoder();
    await decoder.init();
    body = decoder.decode(body, level.uncompressedByteLength) as typeof body;
  } else if (container.supercompressionScheme === ZLIB) body = new Uint8Array(inflateSync(body));
  if (layout.kind === 'blocks') {
    const { data, complete } = decodeBlocks(body, width, height, layout.format);
    if (!complete) throw cut(path);
    return { width, height, components: BLOCKS[layout.format].components, data };
  }
  const { bits, float, count, swap } = layout;
  const total = width * height * count;
  if (body.length < (total * bits) / 8) throw cut(path);
  const view = new DataView(body.buffer, body.byteOffset, body.byteLength);
  const data = pixelArray(float, total, bits);
  for (let i = 0; i < total; i += 1) {
    if (bits === 8) data[i] = body[i];
    else if (bits === 32) data[i] = view.getFloat32(i * 4, true);
    else data[i] = float ? halfToNumber(view.getUint16(i * 2, true)) : view.getUint16(i * 2, true);
  }
  if (swap) for (let i = 0; i < total; i += count) [data[i], data[i + 2]] = [data[i + 2], data[i]];
  return { width, height, components: count, data };
}

function pixelArray(float: boolean, total: number, bits: number) {
  if (float) return new Float32Array(total);
  return bits === 8 ? new Uint8Array(total) : new Uint16Array(total);
}

function cut(path: string): KinkajouError {
  return new KinkajouError('image.broken', 'its pixels are cut off', { file: path }, 'Save the image again.');
}

interface BasisFile {
  isValid(): boolean;
  getWidth(): number;
  getHeight(): number;
  getHasAlpha(): number;
  startTranscoding(): number;
  getImageTranscodedSizeInBytes(level: number, layer: number, face: number, format: number): number;
  transcodeImage(
    out: Uint8Array,
    level: number,
    layer: number,
    face: number,
    format: number,
    unused: number,
    c0: number,
    c1: number,
  ): number;
  close(): void;
  delete(): void;
}
interface BasisModule {
  initializeBasis(): void;
  KTX2File: new (bytes: Uint8Array) => BasisFile;
}

let basis: Promise<BasisModule> | null = null;

/**
 * The transcoder that ships with three. It is a script for pages, so it is run here with a module object of
 * its own.
 */
function loadBasis(): Promise<BasisModule> {
  basis ??= (async () => {
    const [script, wasm] = findTranscoder();
    const [source, wasmBinary] = await Promise.all([readFile(script, 'utf8'), readFile(wasm)]);
    const holder: { exports: unknown } = { exports: {} };
    new Function('module', 'exports', 'require', '__dirname', '__filename', source)(
      holder,
      holder.exports,
      requireFrom(script),
      dirname(script),
      script,
    );
    const module = await (holder.exports as (options: object) => Promise<BasisModule>)({ wasmBinary });
    module.initializeBasis();
    return module;
  })();
  return basis;
}

/** Found from this file, or from the working folder where this file runs inside a bundle. */
function findTranscoder(): string[] {
  const inThree = ['js', 'wasm'].map((type) => `three/examples/jsm/libs/basis/basis_transcoder.${type}`);
  const here = requireFrom(import.meta.url);
  try {
    return inThree.map((path) => here.resolve(path));
  } catch {
    const there = requireFrom(pathToFileURL(join(process.cwd(), 'index.js')).href);
    return inThree.map((path) => there.resolve(path));
  }
}

/** Called by way of `Reflect`, since bundlers replace the calls that they can read. */
function requireFrom(place: string): NodeJS.Require {
  return Reflect.apply(nodeModule.createRequire, nodeModule, [place]);
}

async function transcodeBasis(bytes: Uint8Array, path: string): Promise<PixelBuffer> {
  const { KTX2File } = await loadBasis();
  const file = new KTX2File(new Uint8Array(bytes));
  try {
    if (!file.isValid() || !file.startTranscoding())
      throw new KinkajouError(
        'image.broken',
        'its Basis Universal data is damaged',
        { file: path },
        'Save the image again.',
      );
    const [width, height] = [file.getWidth(), file.getHeight()];
    const data = new Uint8Array(file.getImageTranscodedSizeInBytes(0, 0, 0, RGBA32));
    if (!file.transcodeImage(data, 0, 0, 0, RGBA32, 0, -1, -1))
      throw new KinkajouError(
        'image.broken',
        'its pixels cannot be transcoded',
        { file: path },
        'Save the image again.',
      );
    return { width, height, components: 4, data };
  } finally {
    file.close();
    file.delete();
  }
}
