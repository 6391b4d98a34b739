import { inflateSync } from 'node:zlib';
import { KinkajouError } from '../errors.ts';
import type { PixelBuffer } from './pixelBuffer.ts';

const MODES: Record<number, string> = {
  0: 'bitmap',
  1: 'grey',
  2: 'indexed',
  3: 'RGB',
  4: 'CMYK',
  7: 'multichannel',
  8: 'duotone',
  9: 'Lab',
};

/** What the header of a PSD or PSB file states. */
export interface PsdHeader {
  width: number;
  height: number;
  /** Planes in the file; colours first, then alpha. */
  channels: number;
  depth: 1 | 8 | 16 | 32;
  mode: string;
  /** Components of the flattened picture. */
  components: number;
  wide: boolean;
}

/** Reads the fixed header of a PSD or PSB file. Throws `image.broken`. */
export function psdHeader(bytes: Uint8Array, path: string): PsdHeader {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 26) throw fault(path, 'its header is cut off');
  const version = view.getUint16(4);
  const depth = view.getUint16(22);
  const mode = MODES[view.getUint16(24)];
  if ((version !== 1 && version !== 2) || !mode || ![1, 8, 16, 32].includes(depth))
    throw fault(path, 'its header is damaged');
  const channels = view.getUint16(12);
  const colours = mode === 'RGB' || mode === 'indexed' ? 3 : 1;
  const alpha = mode !== 'indexed' && channels > colours ? 1 : 0;
  return {
    width: view.getUint32(18),
    height: view.getUint32(14),
    channels,
    depth: depth as PsdHeader['depth'],
    mode,
    components: colours + alpha,
    wide: version === 2,
  };
}

/**
 * Decodes the flattened picture that a PSD file keeps behind its layers: grey, indexed and RGB, of 1 to 32
 * bits, raw, run-length coded or deflated. Throws `image.format` for CMYK and Lab, which need a profile to
 * become RGB.
 */
export function decodePsd(bytes: Uint8Array, path: string): PixelBuffer {
  const header = psdHeader(bytes, path);
  if (!['bitmap', 'grey', 'duotone', 'indexed', 'RGB'].includes(header.mode)) {
    throw new KinkajouError(
      'image.format',
      `a PSD file in ${header.mode} cannot be read`,
      { file: path },
      'Save it in RGB.',
    );
  }
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const need = (offset: number, size: number) => {
    if (offset + size > bytes.length) throw fault(path, 'it is cut off');
  };
  let position = 26;
  need(position, 4);
  const palette = bytes.subarray(position + 4, position + 4 + view.getUint32(position));
  position += 4 + view.getUint32(position);
  need(position, 4);
  position += 4 + view.getUint32(position);
  need(position, 8);
  position += header.wide ? 8 + Number(view.getBigUint64(position)) : 4 + view.getUint32(position);
  need(position, 2);
  const compression = view.getUint16(position);
  const planes = unpack(bytes.subarray(position + 2), compression, header, path);
  return compose(planes, palette, header);
}

/** All planes one after the other, big-endian rows of whole bytes. */
function unpack(body: Uint8Array, compression: number, header: PsdHeader, path: string): Uint8Array {
  const { width, height, channels, depth } = header;
  const row = Math.ceil((width * depth) / 8);
  const size = row * height * channels;
  if (compression === 0) {
    if (body.length < size) throw fault(path, 'its pixels are cut off');
    return body.subarray(0, size);
  }
  if (compression === 1) return unpackRuns(body, { row, rows: height * channels, wide: header.wide }, path);
  try {
    const raw = inflateSync(body, { maxOutputLength: size });
    if (raw.length < size) throw new Error('short');
    return compression === 3 ? undoPrediction(raw, row, depth) : raw;
  } catch {
    throw fault(path, 'its packed pixels are damaged');
  }
}

interface RunLayout {
  /** Bytes of an unpacked row. */
  row: number;
  rows: number;
  /** Whether lengths are 32 bits. */
  wide: boolean;
}

/** PackBits rows, their lengths listed before them. */
function unpackRuns(body: Uint8Array, { row, rows, wide }: RunLayout, path: string): Uint8Array {
  const view = new DataView(body.buffer, body.byteOffset, body.byteLength);
  const entry = wide ? 4 : 2;
  if (body.length < rows * entry) throw fault(path, 'its pixels are cut off');
  const out = new Uint8Array(row * rows);
  let offset = rows * entry;
  for (let r = 0; r < rows; r += 1) {
    const end = offset + (wide ? view.getUint32(r * 4) : view.getUint16(r * 2));
    let to = r * row;
    const stop = to + row;
    while (offset < end && to < stop) {
      const count = view.getInt8(offset);
      offset += 1;
      if (count >= 0) {
        out.set(body.subarray(offset, Math.min(offset + count + 1, offset + stop - to)), to);
        offset += count + 1;
        to += count + 1;
      } else if (count !== -128) {
        out.fill(body[offset], to, Math.min(stop, to + 1 - count));
        offset += 1;
        to += 1 - count;
      }
    }
    offset = end;
    if (offset > body.length) throw fault(path, 'its pixels are cut off');
  }
  return out;
}

function undoPrediction(raw: Buffer, row: number, depth: number): Uint8Array {
  const out = new Uint8Array(raw);
  for (let start = 0; start + row <= out.length; start += row) {
    if (depth === 8) for (let i = 1; i < row; i += 1) out[start + i] += out[start + i - 1];
    else if (depth === 16) {
      for (let i = 2; i < row; i += 2) {
        const value =
          (((out[start + i] << 8) | out[start + i + 1]) + ((out[start + i - 2] << 8) | out[start + i - 1])) &
          0xffff;
        out[start + i] = value >> 8;
        out[start + i + 1] = value & 255;
      }
    } else if (depth === 32) {
      // Bytes of a row are predicted as one run, then stand plane by plane.
      for (let i = 1; i < row; i += 1) out[start + i] += out[start + i - 1];
      const flat = out.slice(start, start + row);
      const count = row / 4;
      for (let i = 0; i < count; i += 1)
        for (let k = 0; k < 4; k += 1) out[start + i * 4 + k] = flat[k * count + i];
    }
  }
  return out;
}

function compose(planes: Uint8Array, palette: Uint8Array, header: PsdHeader): PixelBuffer {
  const { width, height, depth, mode, components } = header;
  const count = width * height;
  const view = new DataView(planes.buffer, planes.byteOffset, planes.byteLength);
  if (mode === 'bitmap') {
    const row = Math.ceil(width / 8);
    const data = new Uint8Array(count);
    for (let y = 0; y < height; y += 1)
      for (let x = 0; x < width; x += 1)
        data[y * width + x] = (planes[y * row + (x >> 3)] >> (7 - (x & 7))) & 1 ? 0 : 255;
    return { width, height, components: 1, data };
  }
  if (mode === 'indexed') {
    const data = new Uint8Array(count * 3);
    for (let i = 0; i < count; i += 1)
      for (let k = 0; k < 3; k += 1) data[i * 3 + k] = palette[planes[i] + k * 256] ?? 0;
    return { width, height, components: 3, data };
  }
  const data = pixelArray(depth, count, components);
  const bytes = depth / 8;
  for (let k = 0; k < components; k += 1) {
    const plane = k * count * bytes;
    for (let i = 0; i < count; i += 1) {
      const offset = plane + i * bytes;
      data[i * components + k] = sampleOf(depth, planes, offset, view);
    }
  }
  return { width, height, components, data };
}

function pixelArray(depth: number, count: number, components: number) {
  if (depth === 8) return new Uint8Array(count * components);
  return depth === 16 ? new Uint16Array(count * components) : new Float32Array(count * components);
}

function sampleOf(
  depth: number,
  planes: Uint8Array<ArrayBufferLike>,
  offset: number,
  view: DataView<ArrayBufferLike>,
): number {
  if (depth === 8) return planes[offset];
  return depth === 16 ? view.getUint16(offset) : view.getFloat32(offset);
}

function fault(path: string, why: string): KinkajouError {
  return new KinkajouError('image.broken', why, { file: path }, 'Save the image again.');
}
