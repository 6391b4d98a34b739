import { deflateSync } from 'node:zlib';
import type { PixelBuffer } from './pixelBuffer.ts';

const SHORT = 3;
const LONG = 4;
const DEFLATE = 8;
const FLOAT_SAMPLES = 3;
const UNASSOCIATED_ALPHA = 2;

/**
 * Encodes 32-bit floats as TIFF 6.0, one strip, deflated, little-endian. sharp itself writes no float TIFF.
 */
export function encodeFloatTiff({ width, height, components, data }: PixelBuffer): Uint8Array {
  const pixels = new Uint8Array(deflateSync(new Uint8Array(data.buffer, data.byteOffset, data.byteLength)));
  const alpha = components === 2 || components === 4;
  const same = (value: number) => new Array<number>(components).fill(value);
  const tags: [tag: number, type: number, values: number[]][] = [
    [256, LONG, [width]],
    [257, LONG, [height]],
    [258, SHORT, same(32)],
    [259, SHORT, [DEFLATE]],
    [262, SHORT, [components < 3 ? 1 : 2]],
    [273, LONG, [0]],
    [277, SHORT, [components]],
    [278, LONG, [height]],
    [279, LONG, [pixels.length]],
    [284, SHORT, [1]],
    ...(alpha ? [[338, SHORT, [UNASSOCIATED_ALPHA]] as [number, number, number[]]] : []),
    [339, SHORT, same(FLOAT_SAMPLES)],
  ];
  const directory = 8;
  const outside = directory + 2 + tags.length * 12 + 4;
  const longLists = tags.filter(([, type, values]) => values.length * (type === SHORT ? 2 : 4) > 4);
  const start = outside + longLists.length * components * 2;
  const out = new Uint8Array(start + pixels.length);
  const view = new DataView(out.buffer);
  out.set([0x49, 0x49, 42, 0]);
  view.setUint32(4, directory, true);
  view.setUint16(directory, tags.length, true);
  let extra = outside;
  tags.forEach(([tag, type, values], i) => {
    const offset = directory + 2 + i * 12;
    view.setUint16(offset, tag, true);
    view.setUint16(offset + 2, type, true);
    view.setUint32(offset + 4, values.length, true);
    const list = tag === 273 ? [start] : values;
    const long = list.length * (type === SHORT ? 2 : 4) > 4;
    if (long) view.setUint32(offset + 8, extra, true);
    list.forEach((value, k) => {
      const place = (long ? extra : offset + 8) + k * (type === SHORT ? 2 : 4);
      if (type === SHORT) view.setUint16(place, value, true);
      else view.setUint32(place, value, true);
    });
    if (long) extra += components * 2;
  });
  out.set(pixels, start);
  return out;
}
