import { convertPixels } from '../../colour/convert.ts';
import { chromaticitiesOf } from '../../colour/primaries.ts';
import { isColourSpace, scalarCurve } from '../../colour/spaces.ts';
import {
  adjustPlane,
  emptyPixels,
  extractPlane,
  mixesComponents,
  type Plane,
  packByCode,
  packConstant,
  packPlane,
  resizePlane,
} from '../../images/components.ts';
import { isDecodedBeside } from '../../images/decode.ts';
import { DecodedImages } from '../../images/decodedImages.ts';
import { encodeImage } from '../../images/encode.ts';
import { type PixelBuffer, unitOf } from '../../images/pixelBuffer.ts';
import { type ImageInfo, probeImage } from '../../images/probe.ts';
import { changeNormal, changesNormals } from '../../maps/normalRepair.ts';
import type { ReadFile } from '../../parcel/fileSource.ts';
import {
  type ChannelName,
  COLOUR_CHANNELS,
  type ColourSpace,
  VECTOR_CHANNELS,
} from '../../scene/material.ts';
import type { ImageSource, PlannedImage } from '../plan/planImage.ts';
import { keepCoverage } from './coverage.ts';

/** Light, in which colours are averaged. */
const LIGHT = 'lin_rec709_scene';

/**
 * Computes one output image in its own type and depth, or hands on the source's own bytes where these already
 * fit. Where sizes differ, colours are resampled as light, vectors are brought to length 1 again, and
 * cut-outs keep the share that is there.
 */
export async function bakeImage(
  image: PlannedImage,
  read: ReadFile,
  images = new DecodedImages(),
): Promise<Uint8Array> {
  if (image.copyOf) return read(image.copyOf);
  const { type, depth } = image.map;
  const { width, height, components } = image;
  const pixels = emptyPixels(
    { width, height, components: components.length },
    depth === 'half' || depth === 'float' ? 'float' : depth,
  );
  const decoded = new Map<string, PixelBuffer>();
  const triples = new Map<string, Plane[]>();
  for (const [offset, source] of components.entries()) {
    if (source.from === 'constant') {
      packConstant(pixels, offset, source.value);
      continue;
    }
    let buffer = decoded.get(source.path);
    if (!buffer) {
      buffer = await images.decode(await read(source.path), source.path);
      decoded.set(source.path, buffer);
    }
    bakeComponent(pixels, offset, source, { image, buffer, triples });
  }
  return encodeImage(pixels, type, {
    depth: depth === 'half' ? 16 : 32,
    primaries: chromaticitiesOf(image.map.space),
  });
}

/** Formats whose encoder works outside of this thread, where they hold no floats. */
const ENCODED_BESIDE = new Set(['png', 'jpeg', 'tiff', 'webp']);

/**
 * Whether baking an image is little work for this thread: its sources are decoded and it is encoded outside
 * of it, and every number is looked up between. `sources` are the files by path. False for sources that
 * cannot be read, whose errors come with baking.
 */
export async function isLookedUp(
  image: PlannedImage,
  sources: ReadonlyMap<string, Uint8Array>,
): Promise<boolean> {
  const { type, depth } = image.map;
  if (!ENCODED_BESIDE.has(type) || (depth !== 8 && depth !== 16)) return false;
  const infos = new Map<string, ImageInfo | null>();
  for (const [path, bytes] of sources) infos.set(path, await probeImage(bytes, path).catch(() => null));
  return image.components.every((source) => {
    if (source.from === 'constant') return true;
    const info = infos.get(source.path);
    if (!info || jointChange(source, image)) return false;
    const { format, width, height, components, floating } = info;
    const mixed = mixesComponents(source.component, components);
    return isDecodedBeside(format) && !floating && !mixed && width === image.width && height === image.height;
  });
}

/** How a source's numbers must be changed together, three at a time; null where each stands for itself. */
export function jointChange(
  source: ImageSource,
  image: PlannedImage,
): { kind: 'colour'; from: ColourSpace; exponent: number } | { kind: 'normal' } | null {
  if (source.channel === 'normal') return changesNormals(source) ? { kind: 'normal' } : null;
  const { exponent = 1, space } = source;
  if (
    !COLOUR_CHANNELS.has(source.channel as ChannelName) ||
    !isColourSpace(image.map.space) ||
    !isColourSpace(space)
  )
    return null;
  return space === image.map.space && exponent === 1 ? null : { kind: 'colour', from: space, exponent };
}

/** The image that is made, one source of it, and what was changed together of the sources so far. */
interface Baking {
  image: PlannedImage;
  buffer: PixelBuffer;
  triples: Map<string, Plane[]>;
}

function bakeComponent(pixels: PixelBuffer, offset: number, source: ImageSource, baking: Baking): void {
  const { image, buffer } = baking;
  const resized = buffer.width !== image.width || buffer.height !== image.height;
  const change = jointChange(source, image);
  if (change !== null || (resized && (source.channel === 'normal' || isLight(source, image)))) {
    packPlane(pixels, offset, oneOfThree(source, resized, baking));
    return;
  }
  const component = componentOf(source, source.part);
  const adjusted = (plane: Plane) => adjustPlane(straightened(plane, source), source);
  const alone = { buffer, component, change: (plane: Plane) => turned(adjusted(plane), source) };
  if (!resized && packByCode(pixels, offset, alone)) return;
  const fitted = fit(adjusted(extractPlane(buffer, component)), source, image);
  packPlane(pixels, offset, turned(fitted, source));
}

function oneOfThree(source: ImageSource, resized: boolean, { image, buffer, triples }: Baking): Plane {
  const key = JSON.stringify([{ ...source, part: 0, flip: false }]);
  let three = triples.get(key);
  if (!three) {
    three = ([0, 1, 2] as const).map((part) => adjustPlane(extractTriple(buffer, source, part), source));
    three =
      source.channel === 'normal'
        ? vectors(three, source, image, resized)
        : colours(three, source, image, resized);
    triples.set(key, three);
  }
  const { width, height, values } = three[source.part];
  return turned({ width, height, values: values.slice() }, source);
}

/**
 * The curve that a scalar's stored numbers go through, where their image is tagged as colour; null for all
 * else.
 */
export function curveOf({ channel, space, component }: ImageSource): ((stored: number) => number) | null {
  return VECTOR_CHANNELS.has(channel as ChannelName) ? null : scalarCurve(space, component);
}

function straightened(plane: Plane, source: ImageSource): Plane {
  const curve = curveOf(source);
  return curve ? { ...plane, values: plane.values.map(curve) } : plane;
}

/** Whether a source's numbers are colours under a known curve, on both sides. */
export function isLight({ channel, space }: ImageSource, { map }: PlannedImage): boolean {
  return COLOUR_CHANNELS.has(channel as ChannelName) && isColourSpace(space) && isColourSpace(map.space);
}

function vectors(three: Plane[], source: ImageSource, image: PlannedImage, resized: boolean): Plane[] {
  if (changesNormals(source)) changePlanes(three, source);
  if (!resized) return three;
  const fitted = three.map((plane) => fit(plane, source, image));
  changePlanes(fitted, { repair: 'unit' });
  return fitted;
}

function colours(three: Plane[], source: ImageSource, image: PlannedImage, resized: boolean): Plane[] {
  const { exponent = 1, space } = source;
  if (!resized) {
    convertPlanes(three, space, image.map.space, exponent);
    return three;
  }
  convertPlanes(three, space, LIGHT, exponent);
  const fitted = three.map((plane) => fit(plane, source, image));
  convertPlanes(fitted, LIGHT, image.map.space, 1);
  return fitted;
}

/** A plane in the image's size; the way it wraps decides what lies beyond its edges. */
function fit(plane: Plane, { cutoff }: ImageSource, { width, height, use }: PlannedImage): Plane {
  if (plane.width === width && plane.height === height) return plane;
  const options = { filter: use.filter === 'nearest' ? 'area' : 'mitchell', edges: use.wrap } as const;
  const fitted = resizePlane(plane, width, height, options);
  return cutoff === undefined ? fitted : keepCoverage(plane, fitted, cutoff);
}

function componentOf({ component }: ImageSource, part: 0 | 1 | 2) {
  return component === 'rgb' ? (['r', 'g', 'b'] as const)[part] : component;
}

/**
 * One of three planes; the second of a two-component normal map is its second component, which elsewhere is
 * alpha.
 */
function extractTriple(buffer: PixelBuffer, source: ImageSource, part: 0 | 1 | 2): Plane {
  const second = source.channel === 'normal' && buffer.components === 2 && part === 1;
  return extractPlane(buffer, second ? 'a' : componentOf(source, part));
}

function turned(plane: Plane, { flip }: ImageSource): Plane {
  return flip ? adjustPlane(plane, { invert: true, gain: 1, offset: 0 }) : plane;
}

function changePlanes([x, y, z]: Plane[], use: Parameters<typeof changeNormal>[1]): void {
  for (let i = 0; i < x.values.length; i += 1)
    [x.values[i], y.values[i], z.values[i]] = changeNormal([x.values[i], y.values[i], z.values[i]], use);
}

function convertPlanes(planes: Plane[], from: ColourSpace, to: ColourSpace, exponent: number): void {
  if (from === to && exponent === 1) return;
  const [{ width, height }] = planes;
  const data = new Float32Array(width * height * 3);
  planes.forEach(({ values }, component) => {
    for (let i = 0, index = component; i < values.length; i += 1, index += 3) data[index] = values[i];
  });
  const { buffer } = convertPixels({ width, height, components: 3, data }, from, to, {
    exponent,
    depth: 'float',
  });
  const unit = unitOf(buffer.data);
  planes.forEach(({ values }, component) => {
    for (let i = 0, offset = component; i < values.length; i += 1, offset += 3)
      values[i] = buffer.data[offset] / unit;
  });
}
