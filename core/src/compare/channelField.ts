import type { AssetImage } from '../asset/asset.ts';
import { convertPixels } from '../colour/convert.ts';
import { isColourSpace, scalarCurve } from '../colour/spaces.ts';
import { KinkajouError } from '../errors.ts';
import { extractPlane, type Plane, resizePlane } from '../images/components.ts';
import { DecodedImages } from '../images/decodedImages.ts';
import type { PixelBuffer } from '../images/pixelBuffer.ts';
import { changeNormal, changesNormals } from '../maps/normalRepair.ts';
import { readStored } from '../scene/mapUse.ts';
import {
  type ChannelName,
  COLOUR_CHANNELS,
  type MapUse,
  type Material,
  type Rgb,
  VECTOR_CHANNELS,
} from '../scene/material.ts';

/** An asset as somebody reads it: materials, and where the images that they name lie. */
export interface Reading {
  materials: readonly Material[];
  images: readonly AssetImage[];
  metresPerUnit: number;
  read(path: string): Promise<Uint8Array>;
}

/** A channel's value and map, as a shader reads them. */
export interface FieldInput {
  value: number | Rgb;
  map: MapUse | null;
}

/**
 * What a channel is all over its image: `size` numbers per place, rows from the top. Colours are light in
 * Rec.709.
 */
export interface Field {
  width: number;
  height: number;
  size: 1 | 3;
  values: Float32Array;
}

/** Where a field is looked at. */
export interface Place {
  /** Number of the tile; null for maps without. */
  tile: number | null;
  /** Longest side of the grid of pixels that are picked; 0 for all of them. */
  grid: number;
}

/** Pixels of images by path, so that one that several channels share is decoded once. */
export class Decoder {
  private readonly kept = new Map<string, Promise<PixelBuffer | null>>();

  constructor(
    private readonly reading: Reading,
    private readonly decoded = new DecodedImages(),
  ) {}

  /** Null for an image that cannot be read, which is as good as missing. */
  pixels(path: string): Promise<PixelBuffer | null> {
    let existing = this.kept.get(path);
    if (!existing) {
      existing = this.reading
        .read(path)
        .then((bytes) => this.decoded.decode(bytes, path))
        .catch((error) => {
          if (error instanceof KinkajouError && error.code.startsWith('image.')) return null;
          throw error;
        });
      this.kept.set(path, existing);
    }
    return existing;
  }
}

/** Path of the image that a use reads, or of one of its tiles; null while it is missing. */
export function pathOfUse(use: MapUse, images: readonly AssetImage[], tile: number | null): string | null {
  const entry = images.find(({ key }) => key === use.image);
  if (!entry) return null;
  return (
    (tile === null ? undefined : entry.tiles?.find(({ number }) => number === tile)?.path) ?? entry.resolved
  );
}

/**
 * A channel as a field in the size of its image; of one place where it has none, or where the image is
 * missing. The map's number goes through inversion, gain and offset; colours through their exponent and curve
 * to light; vectors come as stored numbers that point Y+; the value multiplies it all.
 */
export async function fieldOf(
  channel: ChannelName,
  { value, map }: FieldInput,
  { reading, decoder }: { reading: Reading; decoder: Decoder },
  { tile, grid }: Place,
): Promise<Field> {
  const path = map && pathOfUse(map, reading.images, tile);
  const size = VECTOR_CHANNELS.has(channel) ? 3 : 1;
  if (!map || !path) return plainField(channel, value, size);
  const decoded = await decoder.pixels(path);
  if (!decoded) return plainField(channel, value, size);
  const pixels = thinned(decoded, grid);
  const { width, height } = pixels;
  const factor = factorOf(size, value);
  if (size === 1) {
    const { values } = extractPlane(pixels, map.component);
    const curve = scalarCurve(map.space, map.component);
    for (let i = 0; i < values.length; i += 1) {
      const read = curve ? curve(values[i]) : values[i];
      values[i] = (factor as number) * readStored(map, read);
    }
    return { width, height, size, values };
  }
  return {
    width,
    height,
    size,
    values: interleave(threePlanes(pixels, channel, map), channel, map, factor as Rgb),
  };
}

function factorOf(size: number, value: number | Rgb) {
  if (size === 3) return typeof value === 'number' ? ([value, value, value] as Rgb) : value;
  return typeof value === 'number' ? value : value[0];
}

/** Picks pixels on a grid, so that images of one size are still met pixel by pixel. */
function thinned(pixels: PixelBuffer, grid: number): PixelBuffer {
  const longest = Math.max(pixels.width, pixels.height);
  if (grid === 0 || longest <= grid) return pixels;
  const [width, height] = [pixels.width, pixels.height].map((side) =>
    Math.max(1, Math.round((side * grid) / longest)),
  );
  const { components, data } = pixels;
  const out = data.slice(0, width * height * components);
  for (let y = 0; y < height; y += 1) {
    const row = Math.floor(((y + 0.5) * pixels.height) / height) * pixels.width;
    for (let x = 0; x < width; x += 1) {
      const from = (row + Math.floor(((x + 0.5) * pixels.width) / width)) * components;
      for (let k = 0; k < components; k += 1) out[(y * width + x) * components + k] = data[from + k];
    }
  }
  return { width, height, components, data: out };
}

function plainField(channel: ChannelName, value: number | Rgb, size: 1 | 3): Field {
  if (channel === 'normal') return { width: 1, height: 1, size: 3, values: Float32Array.of(0.5, 0.5, 1) };
  const numbers = componentsOf(value, size);
  return { width: 1, height: 1, size, values: Float32Array.from(numbers) };
}

function componentsOf(value: number | Rgb, size: number) {
  if (typeof value === 'number') return new Array<number>(size).fill(value);
  return size === 3 ? value : [value[0]];
}

function threePlanes(pixels: PixelBuffer, channel: ChannelName, { component }: MapUse): Plane[] {
  return ([0, 1, 2] as const).map((part) => {
    if (channel === 'normal' && pixels.components === 2 && part === 1) return extractPlane(pixels, 'a');
    return extractPlane(pixels, component === 'rgb' ? (['r', 'g', 'b'] as const)[part] : component);
  });
}

function interleave(planes: Plane[], channel: ChannelName, map: MapUse, factor: Rgb): Float32Array {
  const [{ width, height }] = planes;
  const values = new Float32Array(width * height * 3);
  planes.forEach((plane, k) => {
    for (let i = 0, index = k; i < plane.values.length; i += 1, index += 3) {
      values[index] = readStored(map, plane.values[i]);
    }
  });
  if (channel === 'normal') return asVectors(values, map);
  const light =
    COLOUR_CHANNELS.has(channel) && isColourSpace(map.space) ? toLight(values, width, height, map) : values;
  if (map.cut) for (let i = 0; i < light.length; i += 1) light[i] = Math.min(1, Math.max(0, light[i]));
  if (factor.some((component) => component !== 1))
    for (let offset = 0; offset < light.length; offset += 1) light[offset] *= factor[offset % 3];
  return light;
}

function toLight(
  data: Float32Array,
  width: number,
  height: number,
  { space, exponent }: MapUse,
): Float32Array {
  const { buffer } = convertPixels({ width, height, components: 3, data }, space, 'lin_rec709_scene', {
    depth: 'float',
    exponent,
  });
  return buffer.data as Float32Array;
}

/** Mended and as strong as the use says, and pointing Y+. */
function asVectors(values: Float32Array, use: MapUse): Float32Array {
  const { normalY } = use;
  const changes = changesNormals(use);
  for (let index = 0; index < values.length; index += 3) {
    if (changes) values.set(changeNormal([values[index], values[index + 1], values[index + 2]], use), index);
    if (normalY === 'Y-') values[index + 1] = 1 - values[index + 1];
  }
  return values;
}

/** A field in another size: one place spreads out, others are resampled. */
export function fitField(field: Field, width: number, height: number): Field {
  if (field.width === width && field.height === height) return field;
  const { size } = field;
  const out = new Float32Array(width * height * size);
  if (field.width === 1 && field.height === 1) {
    for (let i = 0; i < out.length; i += 1) out[i] = field.values[i % size];
    return { width, height, size, values: out };
  }
  for (let k = 0; k < size; k += 1) {
    const plane = {
      width: field.width,
      height: field.height,
      values: new Float32Array(field.width * field.height),
    };
    for (let i = 0; i < plane.values.length; i += 1) plane.values[i] = field.values[i * size + k];
    const { values } = resizePlane(plane, width, height, { filter: 'mitchell', edges: ['repeat', 'repeat'] });
    for (let i = 0; i < values.length; i += 1) out[i * size + k] = values[i];
  }
  return { width, height, size, values: out };
}
