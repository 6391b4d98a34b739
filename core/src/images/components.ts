import { KinkajouError } from '../errors.ts';
import { type MapRange, readAllStored } from '../scene/mapUse.ts';
import type { Component } from '../scene/material.ts';
import { type PixelArray, type PixelBuffer, unitOf } from './pixelBuffer.ts';

/** One plane of values in 0..1 (floats may lie outside), top row first. */
export interface Plane {
  width: number;
  height: number;
  values: Float32Array;
}

/** Rec.709 luma weights, used on the stored numbers. */
const LUMA = [0.2126, 0.7152, 0.0722];
const POSITION: Record<Exclude<Component, 'rgb' | 'luminance'>, number> = { r: 0, g: 1, b: 2, a: 3 };

/** Whether what is read of an image of so many components comes out of several of them. */
export function mixesComponents(component: Component, components: number): boolean {
  return component === 'luminance' && components >= 3;
}

/**
 * Reads one component as a plane. `rgb` of a grey image is its grey; of a colour image, its red. Alpha is 1
 * where there is none.
 */
export function extractPlane(buffer: PixelBuffer, component: Component): Plane {
  const { width, height, components, data } = buffer;
  const values = new Float32Array(width * height);
  const scale = 1 / unitOf(data);
  if (mixesComponents(component, components)) {
    for (let i = 0, offset = 0; i < values.length; i += 1, offset += components) {
      values[i] = (data[offset] * LUMA[0] + data[offset + 1] * LUMA[1] + data[offset + 2] * LUMA[2]) * scale;
    }
    return { width, height, values };
  }
  const position = positionOf(component, components);
  if (position === null) return { width, height, values: values.fill(1) };
  for (let i = 0, index = position; i < values.length; i += 1, index += components)
    values[i] = data[index] * scale;
  return { width, height, values };
}

/**
 * Where a component lies in each pixel, as {@link extractPlane} reads it; null for an alpha that is not there.
 * The luminance of a grey image is its grey; that of a colour image lies in no single place.
 */
function positionOf(component: Component, components: number): number | null {
  const required = component === 'rgb' || component === 'luminance' ? 0 : POSITION[component];
  if (required === 3) return components === 2 || components === 4 ? components - 1 : null;
  return components < 3 ? 0 : required;
}

/** What a slot reads from each number, in place. */
export function adjustPlane(plane: Plane, range: MapRange): Plane {
  readAllStored(range, plane.values);
  return plane;
}

/** How pixels outside an image are thought of while resampling. */
export type EdgeRule = 'repeat' | 'clamp' | 'mirror';

/** How pixels are averaged, and what lies beyond the edges. */
export interface ResizeOptions {
  /**
   * `area` averages when shrinking and is bilinear when growing; `mitchell` is the cubic of Mitchell and
   * Netravali, widened when shrinking.
   */
  filter?: 'area' | 'mitchell';
  /** Across and down. */
  edges?: readonly [EdgeRule, EdgeRule];
}

/** Resamples a plane; the mean stays. */
export function resizePlane(
  plane: Plane,
  width: number,
  height: number,
  { filter = 'area', edges: [edgeAcross, edgeDown] = ['clamp', 'clamp'] }: ResizeOptions = {},
): Plane {
  if (plane.width === width && plane.height === height) return plane;
  const across = resample(plane.width, width, filter, edgeAcross);
  const down = resample(plane.height, height, filter, edgeDown);
  const rows = new Float32Array(width * plane.height);
  for (let y = 0; y < plane.height; y += 1) {
    const row = y * plane.width;
    for (let x = 0; x < width; x += 1) {
      let sum = 0;
      for (let tap = across.starts[x]; tap < across.starts[x + 1]; tap += 1)
        sum += plane.values[row + across.from[tap]] * across.weights[tap];
      rows[y * width + x] = sum;
    }
  }
  const values = new Float32Array(width * height);
  for (let y = 0; y < height; y += 1) {
    for (let tap = down.starts[y]; tap < down.starts[y + 1]; tap += 1) {
      const weight = down.weights[tap];
      const row = down.from[tap] * width;
      for (let x = 0; x < width; x += 1) values[y * width + x] += rows[row + x] * weight;
    }
  }
  return { width, height, values };
}

/** A part of an image, in pixels from its top left corner. */
export interface Window {
  left: number;
  top: number;
  width: number;
  height: number;
}

/** A window of an image, moved and cut so that it lies inside. */
export function cropBuffer(
  { width, height, components, data }: PixelBuffer,
  { left, top, ...size }: Window,
): PixelBuffer {
  const [w, h] = [Math.min(size.width, width), Math.min(size.height, height)];
  const [x, y] = [Math.min(Math.max(0, left), width - w), Math.min(Math.max(0, top), height - h)];
  const out = data.slice(0, w * h * components);
  for (let row = 0; row < h; row += 1) {
    const from = ((y + row) * width + x) * components;
    out.set(data.subarray(from, from + w * components), row * w * components);
  }
  return { width: w, height: h, components, data: out };
}

/**
 * Resamples every component of an image on its stored numbers, alpha apart; integers are rounded to nearest.
 */
export function resizeBuffer(buffer: PixelBuffer, width: number, height: number): PixelBuffer {
  if (buffer.width === width && buffer.height === height) return buffer;
  const { components, data } = buffer;
  const [unit, length] = [unitOf(data), width * height * components];
  const out = arrayLike(data, length);
  for (let k = 0; k < components; k += 1) {
    const isAlpha = k === components - 1 && (components === 2 || components === 4);
    const { values } = resizePlane(
      extractPlane(buffer, isAlpha ? 'a' : (['r', 'g', 'b'] as const)[k]),
      width,
      height,
    );
    for (let i = 0, offset = k; i < values.length; i += 1, offset += components)
      out[offset] = unit === 1 ? values[i] : Math.round(values[i] * unit);
  }
  return { width, height, components, data: out };
}

/**
 * Source pixels and weights that make each target pixel: those of pixel i lie from `starts[i]` to `starts[i +
 * 1]`.
 */
interface Taps {
  starts: Uint32Array;
  from: number[];
  weights: number[];
}

function arrayLike(data: PixelArray, length: number) {
  if (data instanceof Uint8Array) return new Uint8Array(length);
  return data instanceof Uint16Array ? new Uint16Array(length) : new Float32Array(length);
}

function resample(source: number, target: number, filter: 'area' | 'mitchell', edge: EdgeRule): Taps {
  const step = source / target;
  const reach = filter === 'mitchell' ? 2 * Math.max(1, step) : Math.max(1, step);
  const taps: Taps = { starts: new Uint32Array(target + 1), from: [], weights: [] };
  for (let i = 0; i < target; i += 1) {
    const centre = (i + 0.5) * step;
    const first = taps.weights.length;
    let total = 0;
    for (let from = Math.floor(centre - reach); from <= Math.ceil(centre + reach); from += 1) {
      const weight =
        filter === 'mitchell'
          ? mitchell((from + 0.5 - centre) / Math.max(1, step))
          : areaWeight(from, centre, step);
      if (weight === 0) continue;
      taps.from.push(placeOf(from, source, edge));
      taps.weights.push(weight);
      total += weight;
    }
    for (let tap = first; tap < taps.weights.length; tap += 1) taps.weights[tap] /= total;
    taps.starts[i + 1] = taps.weights.length;
  }
  return taps;
}

function areaWeight(from: number, centre: number, step: number): number {
  if (step <= 1) return Math.max(0, 1 - Math.abs(from + 0.5 - centre));
  return Math.max(0, Math.min(from + 1, centre + step / 2) - Math.max(from, centre - step / 2));
}

/** Mitchell and Netravali, Reconstruction filters in computer graphics (1988), B = C = 1/3. */
function mitchell(offset: number): number {
  const x = Math.abs(offset);
  if (x < 1) return (7 * x ** 3 - 12 * x ** 2 + 16 / 3) / 6;
  return x < 2 ? ((-7 / 3) * x ** 3 + 12 * x ** 2 - 20 * x + 32 / 3) / 6 : 0;
}

function placeOf(offset: number, length: number, edge: EdgeRule): number {
  if (offset >= 0 && offset < length) return offset;
  if (edge === 'clamp') return offset < 0 ? 0 : length - 1;
  const turns = Math.floor(offset / length);
  const inside = offset - turns * length;
  return edge === 'mirror' && Math.abs(turns % 2) === 1 ? length - 1 - inside : inside;
}

/** Bits of a packed image, or floats. */
export type PackDepth = 8 | 16 | 'float';

/** An image of zeros, to be filled component by component. */
export function emptyPixels(size: Omit<PixelBuffer, 'data'>, depth: PackDepth): PixelBuffer {
  const length = size.width * size.height * size.components;
  if (depth === 'float') return { ...size, data: new Float32Array(length) };
  return { ...size, data: depth === 8 ? new Uint8Array(length) : new Uint16Array(length) };
}

/**
 * Writes a plane into one component of an image, rounded and clamped where that holds whole numbers. Throws
 * `image.sizes` when their sizes differ.
 */
export function packPlane(
  { width, height, components, data }: PixelBuffer,
  offset: number,
  plane: Plane,
): void {
  if (plane.width !== width || plane.height !== height)
    throw new KinkajouError('image.sizes', 'components of one image must have one size');
  const { values } = plane;
  const unit = unitOf(data);
  if (unit === 1)
    for (let i = 0, index = offset; i < values.length; i += 1, index += components) data[index] = values[i];
  else
    for (let i = 0, index = offset; i < values.length; i += 1, index += components)
      data[index] = quantised(values[i], unit);
}

/** Writes one value into one component of every pixel, rounded as {@link packPlane} does. */
export function packConstant({ components, data }: PixelBuffer, offset: number, value: number): void {
  const unit = unitOf(data);
  const code = unit === 1 ? value : quantised(Math.fround(value), unit);
  for (let index = offset; index < data.length; index += components) data[index] = code;
}

/** A component of an image, and what becomes of each of its values. */
export interface ComponentChange {
  buffer: PixelBuffer;
  component: Component;
  change: (plane: Plane) => Plane;
}

/**
 * Writes a changed component of one image into one of another, where each number may be changed on its own:
 * every code is changed once and looked up for each pixel. False, with nothing done, where the numbers are no
 * codes, are fewer than the codes, or come out of several components.
 */
export function packByCode(target: PixelBuffer, offset: number, from: ComponentChange): boolean {
  const { data: source, components: stride, width, height } = from.buffer;
  const codes = unitOf(source) + 1;
  if (source instanceof Float32Array || codes > width * height) return false;
  if (mixesComponents(from.component, stride)) return false;
  const position = positionOf(from.component, stride);
  if (position === null) return false;
  const values = extractPlane(
    { width: codes, height: 1, components: 1, data: source.slice(0, codes).map((_, code) => code) },
    'r',
  );
  const table = emptyPixels({ width: codes, height: 1, components: 1 }, depthOf(target));
  packPlane(table, 0, from.change(values));
  const { data, components } = target;
  const codeOf = table.data;
  const end = width * height * stride;
  let index = offset;
  for (let place = position; place < end; place += stride, index += components)
    data[index] = codeOf[source[place]];
  return true;
}

function depthOf({ data }: PixelBuffer): PackDepth {
  if (data instanceof Float32Array) return 'float';
  return data instanceof Uint8Array ? 8 : 16;
}

function quantised(value: number, unit: number): number {
  if (value <= 0) return 0;
  return value >= 1 ? unit : value * unit + 0.5;
}
