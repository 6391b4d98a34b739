import { decodeSrgb, encodeSrgb } from '../colour/transfer.ts';
import { type PixelBuffer, unitOf } from '../images/pixelBuffer.ts';
import { type DirectionEvidence, findNormalDirection } from './normalDirection.ts';

/** Raise it when the facts change, so that kept ones are made again. */
export const FACTS_VERSION = 1;

/** Bins of the brightness histogram over 0..1. */
export const HISTOGRAM_BINS = 64;

/** What an image's pixels say, as numbers. Plain JSON; the same for equal content. All values as stored, 1.0 full scale. */
export interface PixelFacts {
  version: number;
  width: number;
  height: number;
  components: number;
  floating: boolean;
  /** Per component, over every pixel. */
  min: number[];
  max: number[];
  mean: number[];
  /** Per component: share of pixels at one of the two ends of its own range, 0 for a constant one. */
  ends: number[];
  /** Share of pixels whose r, g and b are equal; 1 for grey images. */
  grey: number;
  /** Mean of (max - min) / max over r, g and b. */
  saturation: number;
  /** Share of pixels that are unit vectors with z upwards when read as 2c - 1. */
  unit: number;
  /** Share of pixels whose x and y as a vector fit into the unit circle, for two-component normals. */
  disc: number;
  /** Mean length of 2c - 1. */
  length: number;
  /** Share of pixels darker than 0.04 and brighter than 0.5. */
  dark: number;
  bright: number;
  /** Share of pixels per bin of brightness over 0..1. */
  histogram: number[];
  /** Shares below 0 and above 1. */
  under: number;
  over: number;
  /** Brightness that 1, 5, 25, 50, 75, 95 and 99 of 100 pixels stay under. */
  percentiles: number[];
  /** Floats only: shares that are whole 8-bit codes as stored, after one sRGB encoding, and after two. Chance is about 0.1. */
  codes: { stored: number; encoded: number; encodedTwice: number } | null;
  /** Only where the image may be a normal map. */
  direction: DirectionEvidence | null;
}

/** Pixels that are looked at closely; minimum, maximum and mean take every pixel. */
const SAMPLES = 250_000;
/** Components equal within this are grey; JPEG and rounding keep within it. */
const EQUAL = 2.5 / 255;
const UNIT_SLACK = 0.08;
const END_SLACK = 3 / 255;
/** Half-width of what counts as a whole 8-bit code. */
const CODE_SLACK = 0.05;
const PERCENTILES = [0.01, 0.05, 0.25, 0.5, 0.75, 0.95, 0.99];

/** Looks at an image once: one pass over all pixels for the ranges, a closer look at up to a quarter of a million. */
export function lookAtPixels(buffer: PixelBuffer): PixelFacts {
  const { width, height, components, data } = buffer;
  const floating = data instanceof Float32Array;
  const ranges = rangesOf(buffer);
  const close = lookClosely(buffer, ranges);
  const mayBeNormal = components >= 3 ? close.unit > 0.5 && ranges.mean[2] > 0.55 : components === 2 && close.disc > 0.98;
  return {
    version: FACTS_VERSION,
    width,
    height,
    components,
    floating,
    ...ranges,
    ...close,
    direction: mayBeNormal && !isFlat(ranges) ? findNormalDirection(buffer) : null,
  };
}

function isFlat({ min, max }: { min: number[]; max: number[] }): boolean {
  return max[0] - min[0] < 0.01 && (min[1] === undefined || max[1] - min[1] < 0.01);
}

function rangesOf({ components, data }: PixelBuffer): { min: number[]; max: number[]; mean: number[] } {
  const min = new Array<number>(components).fill(Number.POSITIVE_INFINITY);
  const max = new Array<number>(components).fill(Number.NEGATIVE_INFINITY);
  const sum = new Array<number>(components).fill(0);
  for (let k = 0; k < components; k += 1) {
    let [low, high, total] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, 0];
    for (let at = k; at < data.length; at += components) {
      const value = data[at];
      if (value < low) low = value;
      if (value > high) high = value;
      total += value;
    }
    [min[k], max[k], sum[k]] = [low, high, total];
  }
  const unit = unitOf(data);
  const count = data.length / components;
  return { min: min.map((value) => value / unit), max: max.map((value) => value / unit), mean: sum.map((value) => value / unit / count) };
}

function lookClosely({ width, height, components, data }: PixelBuffer, { min, max }: { min: number[]; max: number[] }) {
  const unit = unitOf(data);
  const floating = data instanceof Float32Array;
  const count = width * height;
  const colours = components >= 3;
  // An odd step that shares no factor with the width walks over all columns.
  let step = Math.max(1, Math.floor(count / SAMPLES)) | 1;
  while (step > 1 && width % step === 0) step += 2;
  const taken = Math.ceil(count / step);
  const brightness = new Float32Array(taken);
  const ends = new Array<number>(components).fill(0);
  const histogram = new Array<number>(HISTOGRAM_BINS).fill(0);
  const codes = { stored: 0, encoded: 0, encodedTwice: 0 };
  let [grey, saturation, units, disc, lengths, dark, bright, under, over] = [0, 0, 0, 0, 0, 0, 0, 0, 0];
  for (let i = 0, n = 0; i < count; i += step, n += 1) {
    const at = i * components;
    for (let k = 0; k < components; k += 1) {
      const value = data[at + k] / unit;
      if (max[k] > min[k] && (value - min[k] <= END_SLACK || max[k] - value <= END_SLACK)) ends[k] += 1;
    }
    const r = data[at] / unit;
    const g = colours ? data[at + 1] / unit : r;
    const b = colours ? data[at + 2] / unit : r;
    const light = colours ? 0.2126 * r + 0.7152 * g + 0.0722 * b : r;
    brightness[n] = light;
    if (light < 0) under += 1;
    else if (light > 1) over += 1;
    else histogram[Math.min(HISTOGRAM_BINS - 1, Math.floor(light * HISTOGRAM_BINS))] += 1;
    if (light < 0.04) dark += 1;
    if (light > 0.5) bright += 1;
    const high = Math.max(r, g, b);
    const low = Math.min(r, g, b);
    if (high - low <= EQUAL) grey += 1;
    if (high > 0) saturation += (high - low) / high;
    const [x, y, z] = [2 * r - 1, 2 * g - 1, 2 * b - 1];
    const length = Math.hypot(x, y, z);
    lengths += length;
    if (Math.abs(length - 1) < UNIT_SLACK && z > -0.02) units += 1;
    const second = components === 2 ? (2 * data[at + 1]) / unit - 1 : y;
    if (x * x + second * second <= 1.02) disc += 1;
    if (floating) countCodes(r, codes);
  }
  const share = (value: number) => Math.round((value / taken) * 1e5) / 1e5;
  brightness.sort();
  return {
    ends: ends.map(share),
    grey: share(grey),
    saturation: share(saturation),
    unit: colours ? share(units) : 0,
    disc: share(disc),
    length: share(lengths),
    dark: share(dark),
    bright: share(bright),
    histogram: histogram.map(share),
    under: share(under),
    over: share(over),
    percentiles: PERCENTILES.map((part) => Math.round(brightness[Math.min(taken - 1, Math.floor(part * taken))] * 1e5) / 1e5),
    codes: floating ? { stored: share(codes.stored), encoded: share(codes.encoded), encodedTwice: share(codes.encodedTwice) } : null,
  };
}

/** Counts whether a float is a whole 8-bit code as it stands or once encoded. Half floats are too coarse near 1 to tell. */
function countCodes(value: number, codes: { stored: number; encoded: number; encodedTwice: number }): void {
  if (value < 0 || value > 1) return;
  if (isCode(value)) codes.stored += 1;
  const once = encodeSrgb(value);
  if (isCode(once)) codes.encoded += 1;
  if (isCode(encodeSrgb(once))) codes.encodedTwice += 1;
}

function isCode(value: number): boolean {
  const code = value * 255;
  return Math.abs(code - Math.round(code)) < CODE_SLACK;
}

/** The single value of a component that is the same everywhere, or null. 8-bit noise of one code counts as the same. */
export function constantOf(facts: PixelFacts, component: number): number | null {
  const [low, high] = [facts.min[component], facts.max[component]];
  if (low === undefined || high - low > 1.01 / 255) return null;
  return facts.mean[component];
}

/** Percentiles as a linear reading has them, of 8-bit sRGB numbers. */
export function decodedPercentiles(facts: PixelFacts): number[] {
  return facts.percentiles.map(decodeSrgb);
}
