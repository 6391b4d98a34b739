import { type PixelBuffer, unitOf } from '../images/pixelBuffer.ts';
import { activityOf } from './activity.ts';
import { type CodeEvidence, codeEvidence } from './codeEvidence.ts';
import { type EdgeFacts, lookAtEdges } from './edgeFacts.ts';
import { type DirectionEvidence, findNormalDirection } from './normalDirection.ts';
import { sketchOf } from './sketch.ts';
import { valuesAtRanks } from './valuesAtRanks.ts';

/** Raise it when the facts change, so that kept ones are made again. */
export const FACTS_VERSION = 7;

/** Bins of the brightness histogram over 0..1. */
export const HISTOGRAM_BINS = 64;

/**
 * What an image's pixels say, as numbers. Plain JSON; the same for equal content. All values as stored, 1.0
 * full scale.
 */
export interface PixelFacts {
  version: number;
  width: number;
  height: number;
  components: number;
  floating: boolean;
  /** Per component, over the pixels that were looked at; where these are all equal, over every pixel. */
  min: number[];
  max: number[];
  mean: number[];
  /** Per component: share of pixels at one of the two ends of its own range, 0 for a constant one. */
  ends: number[];
  /** Share of pixels whose r, g and b are equal; 1 for grey images. */
  grey: number;
  /** Mean of (max - min) / max over r, g and b; pixels too dark to show a hue count as grey. */
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
  /** Floats only: whether the numbers were 8-bit codes once, and which way leads back to them. */
  codes: CodeEvidence | null;
  /** Shares of the pixels by their alpha: all there, not there at all, in between; null without alpha. */
  alpha: {
    full: number;
    clear: number;
    between: number /** Shares per bin over 0..1. */;
    bins: number[];
  } | null;
  /** What lies beside the edge of the alpha; null without alpha or edge. */
  edges: EdgeFacts | null;
  /**
   * Share of pixels that equal their right neighbour, and different colours to 5 bits, counted up to {@link
   * MANY_COLOURS}.
   */
  flat: number;
  colours: number;
  /** The image in 32 by 32 cells; see `sketchOf`. */
  sketch: string;
  /** How much the image changes within each of 64 by 64 cells; see `activityOf`. */
  activity: string;
  /** Only where the image may be a normal map. */
  direction: DirectionEvidence | null;
}

/**
 * Pixels that are looked at, spread over the whole; what is the same in all of them is checked in every
 * pixel.
 */
const SAMPLES = 120_000;
/** Components that vary less than this over the samples may be constant: one 8-bit code. */
const STEADY = 1.01 / 255;
/** Components equal within this are grey; JPEG and rounding keep within it. */
const EQUAL = 2.5 / 255;
const UNIT_SLACK = 0.08;
/** Stored values up to this are black to the eye, whatever their components say. */
const HUELESS = 20 / 255;
const END_SLACK = 3 / 255;
/** Alpha this near to 0 or 1 is meant to be it. */
const ALPHA_SLACK = 2.5 / 255;
/** More colours than this are no palette. */
export const MANY_COLOURS = 257;
const PERCENTILES = [0.01, 0.05, 0.25, 0.5, 0.75, 0.95, 0.99];

/**
 * Looks at an image once, at up to 120,000 of its pixels; a component that seems constant is checked all
 * over.
 */
export function lookAtPixels(buffer: PixelBuffer): PixelFacts {
  const { width, height, components, data } = buffer;
  const floating = data instanceof Float32Array;
  const samples = gatherSamples(buffer);
  const ranges = rangesOf(buffer, samples);
  const close = lookClosely(samples, ranges);
  // What is black holds no vector.
  const held = Math.max(1 - close.dark, 1e-6);
  const mayBeNormal =
    components >= 3
      ? close.unit / held > 0.5 && ranges.mean[2] / held > 0.55
      : components === 2 && close.disc > 0.98;
  return {
    version: FACTS_VERSION,
    width,
    height,
    components,
    floating,
    ...ranges,
    ...close,
    codes: floating ? codeEvidence(buffer) : null,
    edges: lookAtEdges(buffer),
    sketch: sketchOf(buffer),
    activity: activityOf(buffer),
    direction: mayBeNormal && !isFlat(ranges) ? findNormalDirection(buffer) : null,
  };
}

function isFlat({ min, max }: { min: number[]; max: number[] }): boolean {
  return max[0] - min[0] < 0.01 && (min[1] === undefined || max[1] - min[1] < 0.01);
}

/** An odd step that shares no factor with the width walks over all columns. */
function stepOf({ width, height }: PixelBuffer): number {
  let step = Math.max(1, Math.floor((width * height) / SAMPLES)) | 1;
  while (step > 1 && width % step === 0) step += 2;
  return step;
}

/** The pixels of an image that are looked at, one after the other. */
interface Samples {
  components: number;
  data: PixelBuffer['data'];
  count: number;
  /** Whether they are all the image has. */
  all: boolean;
  /** How many equal their right neighbour. */
  flat: number;
}

/** Takes the samples out of an image that is far too big to stay in the processor's cache, in one pass. */
function gatherSamples(buffer: PixelBuffer): Samples {
  const { width, height, components, data } = buffer;
  const step = stepOf(buffer);
  const count = Math.ceil((width * height) / step);
  const taken = data.slice(0, count * components);
  const steady = unitOf(data) / 200;
  let flat = 0;
  for (let n = 0, target = 0; n < count; n += 1) {
    const pixel = n * step;
    const index = pixel * components;
    const next = (pixel + 1) % width === 0 ? index : index + components;
    let same = true;
    for (let k = 0; k < components; k += 1, target += 1) {
      const value = data[index + k];
      taken[target] = value;
      if (Math.abs(value - data[next + k]) > steady) same = false;
    }
    if (same) flat += 1;
  }
  return { components, data: taken, count, all: step === 1, flat };
}

function rangesOf(
  { components, data }: PixelBuffer,
  samples: Samples,
): { min: number[]; max: number[]; mean: number[] } {
  const unit = unitOf(data);
  const [min, max, mean] = [[] as number[], [] as number[], [] as number[]];
  for (let k = 0; k < components; k += 1) {
    let range = rangeOf(samples.data, k, components);
    if (!samples.all && (range.high - range.low) / unit < STEADY) range = rangeOf(data, k, components);
    min.push(range.low / unit);
    max.push(range.high / unit);
    mean.push(range.mean / unit);
  }
  return { min, max, mean };
}

function rangeOf(
  data: PixelBuffer['data'],
  from: number,
  stride: number,
): { low: number; high: number; mean: number } {
  let [low, high, total, count] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, 0, 0];
  for (let index = from; index < data.length; index += stride) {
    const value = data[index];
    if (value < low) low = value;
    if (value > high) high = value;
    total += value;
    count += 1;
  }
  return { low, high, mean: total / Math.max(1, count) };
}

function lookClosely(
  { components, data, count, flat }: Samples,
  { min, max }: { min: number[]; max: number[] },
) {
  const unit = unitOf(data);
  const colours = components >= 3;
  const brightness = new Float32Array(count);
  const ends = new Float64Array(components);
  const histogram = new Float64Array(HISTOGRAM_BINS);
  const alphaAt = alphaPlane(components);
  let [full, clear] = [0, 0];
  const alphaBins = new Float64Array(HISTOGRAM_BINS);
  const palette = new Set<number>();
  let [grey, saturation, units, disc, lengths, dark, bright, under, over] = [0, 0, 0, 0, 0, 0, 0, 0, 0];
  for (let n = 0; n < count; n += 1) {
    const index = n * components;
    for (let k = 0; k < components; k += 1) {
      const value = data[index + k] / unit;
      if (max[k] > min[k] && (value - min[k] <= END_SLACK || max[k] - value <= END_SLACK)) ends[k] += 1;
    }
    const r = data[index] / unit;
    const g = colours ? data[index + 1] / unit : r;
    const b = colours ? data[index + 2] / unit : r;
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
    if (high > HUELESS) saturation += (high - low) / high;
    const x = 2 * r - 1;
    const y = 2 * g - 1;
    const z = 2 * b - 1;
    const length = Math.sqrt(x * x + y * y + z * z);
    lengths += length;
    if (Math.abs(length - 1) < UNIT_SLACK && z > -0.02) units += 1;
    const second = components === 2 ? (2 * data[index + 1]) / unit - 1 : y;
    if (x * x + second * second <= 1.02) disc += 1;
    if (palette.size < MANY_COLOURS) palette.add((code5(r) << 10) | (code5(g) << 5) | code5(b));
    if (alphaAt >= 0) {
      const alpha = data[index + alphaAt] / unit;
      alphaBins[Math.min(HISTOGRAM_BINS - 1, Math.max(0, Math.floor(alpha * HISTOGRAM_BINS)))] += 1;
      if (alpha >= 1 - ALPHA_SLACK) full += 1;
      else if (alpha <= ALPHA_SLACK) clear += 1;
    }
  }
  const share = (value: number) => Math.round((value / count) * 1e5) / 1e5;
  return {
    ends: Array.from(ends, share),
    grey: share(grey),
    saturation: share(saturation),
    unit: colours ? share(units) : 0,
    disc: share(disc),
    length: share(lengths),
    dark: share(dark),
    bright: share(bright),
    histogram: Array.from(histogram, share),
    under: share(under),
    over: share(over),
    percentiles: valuesAtRanks(
      brightness,
      PERCENTILES.map((component) => Math.min(count - 1, Math.floor(component * count))),
    ).map((value) => Math.round(value * 1e5) / 1e5),
    flat: share(flat),
    colours: palette.size,
    alpha:
      alphaAt < 0
        ? null
        : {
            full: share(full),
            clear: share(clear),
            between: share(count - full - clear),
            bins: Array.from(alphaBins, share),
          },
  };
}

function alphaPlane(components: number) {
  if (components === 4) return 3;
  return components === 2 ? 1 : -1;
}

function code5(value: number): number {
  return Math.min(31, Math.max(0, Math.round(value * 31)));
}

/**
 * The single value of a component that is the same everywhere, or null. 8-bit noise of one code counts as the
 * same.
 */
export function constantOf(facts: PixelFacts, component: number): number | null {
  const [low, high] = [facts.min[component], facts.max[component]];
  if (low === undefined || high - low > 1.01 / 255) return null;
  return facts.mean[component];
}
