import { DataTexture, FloatType, HalfFloatType, RGBAFormat } from 'three';
import { EXRExporter, ZIP_COMPRESSION } from 'three/addons/exporters/EXRExporter.js';
import { EXRLoader } from 'three/addons/loaders/EXRLoader.js';
import { KinkajouError } from '../errors.ts';
import { numberToHalf } from '../scene/half.ts';
import { type PixelBuffer, unitOf } from './pixelBuffer.ts';

/** What the header of an OpenEXR file states. */
export interface ExrHeader {
  width: number;
  height: number;
  bitDepth: 16 | 32;
  /** Channels as the file orders them. */
  channels: { name: string; at: number }[];
  /** Names of layers; '' for channels without one. */
  layers: string[];
  /** x, y of red, green, blue and white, where the file states them. */
  chromaticities: number[] | null;
}

/**
 * Attributes of an OpenEXR header: name, type, size, value, each text ending in a zero byte. Throws
 * `image.broken`.
 */
export function exrHeader(bytes: Uint8Array, path: string): ExrHeader {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const cut = () =>
    new KinkajouError('image.broken', 'its header is cut off', { file: path }, 'Export the image again.');
  const damaged = (why: string) =>
    new KinkajouError('image.broken', why, { file: path, offset }, 'Export the image again.');
  let offset = 8;
  const text = () => {
    const end = bytes.indexOf(0, offset);
    if (end < 0 || end - offset > 255) throw cut();
    const value = String.fromCharCode(...bytes.subarray(offset, end));
    offset = end + 1;
    return value;
  };
  const header: ExrHeader = {
    width: 0,
    height: 0,
    bitDepth: 16,
    channels: [],
    layers: [],
    chromaticities: null,
  };
  while (offset < bytes.length && bytes[offset] !== 0) {
    const name = text();
    text();
    if (offset + 4 > bytes.length) throw cut();
    const size = view.getUint32(offset, true);
    offset += 4;
    const end = offset + size;
    if (end > bytes.length) throw cut();
    if (name === 'dataWindow' && size >= 16) {
      header.width = view.getInt32(offset + 8, true) - view.getInt32(offset, true) + 1;
      header.height = view.getInt32(offset + 12, true) - view.getInt32(offset + 4, true) + 1;
    } else if (name === 'chromaticities' && size >= 32) {
      header.chromaticities = Array.from({ length: 8 }, (_, i) => view.getFloat32(offset + i * 4, true));
    } else if (name === 'channels') {
      while (offset < end && bytes[offset] !== 0) {
        const start = offset;
        header.channels.push({ name: text(), at: start });
        if (offset + 16 > bytes.length) throw cut();
        const steps = [view.getUint32(offset + 8, true), view.getUint32(offset + 12, true)];
        // Chroma at half the size is all that anybody writes; the decoder would count without end at others.
        if (steps.some((step) => step !== 1 && step !== 2))
          throw damaged(
            `its channel ${header.channels[header.channels.length - 1].name} is sampled every ${steps.join(' by ')} pixels`,
          );
        if (view.getInt32(offset, true) !== 1) header.bitDepth = 32;
        offset += 16;
      }
    }
    offset = end;
  }
  if (header.channels.length === 0)
    throw new KinkajouError(
      'image.broken',
      'its header names no channels',
      { file: path },
      'Export the image again.',
    );
  header.layers = [...new Set(header.channels.map(({ name }) => layerOf(name)))];
  return header;
}

function layerOf(channel: string): string {
  const dot = channel.lastIndexOf('.');
  return dot < 0 ? '' : channel.slice(0, dot);
}

/**
 * The channels that make the picture of a layer, with the names the codec knows: r, g, b and perhaps a, grey
 * and alpha or red and green as Y and A, or one as Y.
 */
export function chooseChannels(
  header: ExrHeader,
  layer: string | undefined,
  path: string,
): Map<string, string> {
  const required = layer ?? header.layers.find((name) => name === '') ?? header.layers[0];
  if (!header.layers.includes(required)) {
    throw new KinkajouError(
      'image.layer',
      `there is no layer "${required}"`,
      { file: path },
      `Its layers are ${header.layers.map((name) => name || 'the unnamed one').join(', ')}.`,
    );
  }
  const layerChannels = header.channels.map(({ name }) => name).filter((name) => layerOf(name) === required);
  const bare = (name: string) => name.slice(name.lastIndexOf('.') + 1).toUpperCase();
  const find = (...letters: string[]) => layerChannels.find((name) => letters.includes(bare(name)));
  const [r, g, b] = [find('R', 'RED', 'X'), find('G', 'GREEN'), find('B', 'BLUE', 'Z')];
  const y = layerChannels.find((name) => bare(name) === 'Y');
  if (y && find('RY') && find('BY'))
    return new Map([
      [y, 'Y'],
      [find('RY') as string, 'RY'],
      [find('BY') as string, 'BY'],
    ]);
  const green = g ?? (r && b ? y : undefined);
  if (r && green && b) {
    const alpha = find('A', 'ALPHA');
    return new Map([[r, 'R'], [green, 'G'], [b, 'B'], ...(alpha ? [[alpha, 'A'] as [string, string]] : [])]);
  }
  const second = y ? find('A', 'ALPHA') : g;
  const first = y ?? (second && r);
  if (first && second)
    return new Map([
      [first, 'Y'],
      [second, 'A'],
    ]);
  return new Map([[y ?? layerChannels[0], 'Y']]);
}

/**
 * Decodes one layer of an EXR file: the unnamed one, or the first, unless told. Half and float, every
 * compression of the standard that the codec knows. Rows come top first.
 */
export function decodeExr(bytes: Uint8Array, path: string, layer?: string): PixelBuffer {
  const header = exrHeader(bytes, path);
  const chosen = chooseChannels(header, layer, path);
  if (chosen.size !== 2) return decodeChosen(bytes, header, chosen);
  // The codec knows no pairs.
  const [first, second] = [...chosen.keys()].map((name) =>
    decodeChosen(bytes, header, new Map([[name, 'Y']])),
  );
  const data = new Float32Array(first.data.length * 2);
  for (let i = 0; i < first.data.length; i += 1) data.set([first.data[i], second.data[i]], i * 2);
  return { ...first, components: 2, data };
}

function decodeChosen(bytes: Uint8Array, header: ExrHeader, chosen: Map<string, string>): PixelBuffer {
  const file = renameChannels(bytes, header, chosen);
  const { data, width, height } = new EXRLoader().setDataType(FloatType).parse(file) as {
    data: Float32Array;
    width: number;
    height: number;
  };
  const names = [...chosen.values()];
  const components = componentCount(names);
  const given = data.length / (width * height);
  const out = new Float32Array(width * height * components);
  for (let row = 0; row < height; row += 1) {
    let from = (height - 1 - row) * width * given;
    let to = row * width * components;
    for (let x = 0; x < width; x += 1, from += given, to += components)
      for (let k = 0; k < components; k += 1) out[to + k] = data[from + k];
  }
  return { width, height, components, data: out };
}

/** Components of a picture with channels of these names, as the codec knows them. */
export function componentCount(names: readonly string[]): number {
  if (names.length < 3) return names.length;
  return names.includes('A') ? 4 : 3;
}

/**
 * The file with the chosen channels under the names that the codec looks for, and the others out of its way.
 */
function renameChannels(bytes: Uint8Array, header: ExrHeader, chosen: Map<string, string>): ArrayBuffer {
  if (header.channels.every(({ name }) => (chosen.get(name) ?? `${name}.`) === name))
    return new Uint8Array(bytes).buffer;
  const pieces: Uint8Array[] = [];
  const encoder = new TextEncoder();
  let from = 0;
  let grown = 0;
  header.channels.forEach(({ name, at: offset }, i) => {
    const renamed = chosen.get(name) ?? `other${i}`;
    pieces.push(bytes.subarray(from, offset), encoder.encode(renamed));
    from = offset + name.length;
    grown += renamed.length - name.length;
  });
  pieces.push(bytes.subarray(from));
  const out = new Uint8Array(bytes.length + grown);
  let position = 0;
  for (const piece of pieces) {
    out.set(piece, position);
    position += piece.length;
  }
  // The size of the channel list stands in the four bytes before it.
  const sizeAt = header.channels[0].at - 4;
  const view = new DataView(out.buffer);
  view.setUint32(sizeAt, view.getUint32(sizeAt, true) + grown, true);
  return out.buffer;
}

/**
 * Encodes floats as EXR, half unless told otherwise, zip-compressed. Grey and rgb get the components the
 * format asks for. `primaries` are stated in the header: x, y of red, green, blue and white.
 */
export async function encodeExr(
  buffer: PixelBuffer,
  depth: 16 | 32 = 16,
  primaries: readonly number[] | null = null,
): Promise<Uint8Array> {
  const { width, height, components, data } = buffer;
  const unit = unitOf(data);
  const rgba = depth === 16 ? new Uint16Array(width * height * 4) : new Float32Array(width * height * 4);
  const put = depth === 16 ? numberToHalf : (value: number) => value;
  for (let y = 0; y < height; y += 1) {
    for (let x = 0; x < width; x += 1) {
      const from = (y * width + x) * components;
      const to = ((height - 1 - y) * width + x) * 4;
      for (let k = 0; k < 3; k += 1) rgba[to + k] = put(data[from + (components < 3 ? 0 : k)] / unit);
      rgba[to + 3] = put(components === 4 || components === 2 ? data[from + components - 1] / unit : 1);
    }
  }
  const texture = new DataTexture(
    rgba as Uint16Array<ArrayBuffer>,
    width,
    height,
    RGBAFormat,
    depth === 16 ? HalfFloatType : FloatType,
  );
  const bytes = await new EXRExporter().parse(texture, {
    type: depth === 16 ? HalfFloatType : FloatType,
    compression: ZIP_COMPRESSION,
  });
  return primaries ? withChromaticities(bytes, height, primaries) : bytes;
}

/** Rows per block of zip compression, by the OpenEXR file layout. */
const ZIP_ROWS = 16;

/** The file with a `chromaticities` attribute at the end of its header; the offsets of its blocks follow. */
function withChromaticities(bytes: Uint8Array, height: number, primaries: readonly number[]): Uint8Array {
  const encoder = new TextEncoder();
  const attribute = new Uint8Array([
    ...encoder.encode('chromaticities\0chromaticities\0'),
    32,
    0,
    0,
    0,
    ...new Uint8Array(32),
  ]);
  const values = new DataView(attribute.buffer, attribute.length - 32);
  primaries.slice(0, 8).forEach((value, i) => values.setFloat32(i * 4, value, true));
  const end = endOfHeader(bytes);
  const out = new Uint8Array(bytes.length + attribute.length);
  out.set(bytes.subarray(0, end));
  out.set(attribute, end);
  out.set(bytes.subarray(end), end + attribute.length);
  const view = new DataView(out.buffer);
  const table = end + attribute.length + 1;
  for (let block = 0; block < Math.ceil(height / ZIP_ROWS); block += 1) {
    const offset = table + block * 8;
    view.setBigUint64(offset, view.getBigUint64(offset, true) + BigInt(attribute.length), true);
  }
  return out;
}

/** Where the zero byte stands that ends the header. */
function endOfHeader(bytes: Uint8Array): number {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let offset = 8;
  while (bytes[offset] !== 0) {
    offset = bytes.indexOf(0, offset) + 1;
    offset = bytes.indexOf(0, offset) + 1;
    offset += 4 + view.getUint32(offset, true);
  }
  return offset;
}
