import { deltaE2000, labOf } from '../colour/deltaE.ts';
import type { DecodedImages } from '../images/decodedImages.ts';
import type { Material } from '../scene/material.ts';
import { encodeSrgb } from '../scene/transfer.ts';
import { type Aspect, type AspectKind, aspectField, aspectsOf, type DecodedSide, usesOf } from './aspects.ts';
import { Decoder, type Field, fitField, pathOfUse, type Reading } from './channelField.ts';

/**
 * How far two readings of one channel lie apart. Colours are measured as sRGB numbers, vectors as stored
 * numbers.
 */
export interface ChannelDifference {
  channel: string;
  kind: AspectKind;
  /** In 0..1; metres for heights. */
  mean: number;
  largest: number;
  /** CIEDE2000, of colours alone. */
  deltaE: { mean: number; largest: number } | null;
  /** Share of places, in 0..1, that lie farther apart than the limit. */
  beyond: number;
  limit: number;
  places: number;
  /** The mean on either side: one number, or three. */
  a: number[];
  b: number[];
  /** Sizes of the images on either side. */
  sizes: [string, string];
}

/** How exactly images are compared. */
export interface CompareOptions {
  /** Difference from which a place counts, in 0..1 of the channel's range. */
  limit?: number;
  /** Longest side of the grid of places that are compared; images of one size are met pixel by pixel. */
  grid?: number;
  /** Where images lie that were decoded before; a place of its own unless told. */
  decoded?: DecodedImages;
}

/** One and a half steps of 8 bits, on at most 256 by 256 places. */
export const COMPARE_DEFAULTS = { limit: 1.5 / 255, grid: 256 } as const;

/** A channel's fields on the same grid, to be measured or drawn. */
export interface FieldPair {
  aspect: Aspect;
  a: Field;
  b: Field;
  sizes: [string, string];
}

/** A material, and what its images are read from. */
export interface MaterialSide {
  material: Material;
  reading: Reading;
}

/** Compares every channel that either material has. */
export async function compareMaterials(
  a: MaterialSide,
  b: MaterialSide,
  options: CompareOptions = {},
): Promise<ChannelDifference[]> {
  const sides = [withDecoder(a, options), withDecoder(b, options)] as const;
  const out: ChannelDifference[] = [];
  for (const aspect of aspectsOf(a.material, b.material)) {
    out.push(measure(await pairsOf(aspect, ...sides, options), options));
    // A server that compares goes on answering others.
    await new Promise((resolve) => setImmediate(resolve));
  }
  return out;
}

/** The fields of one channel by its name; null where neither material has it. */
export async function compareChannel(
  channel: string,
  a: MaterialSide,
  b: MaterialSide,
  options: CompareOptions = {},
): Promise<FieldPair | null> {
  const aspect = aspectsOf(a.material, b.material).find(({ id }) => id === channel);
  if (!aspect) return null;
  return (await pairsOf(aspect, withDecoder(a, options), withDecoder(b, options), options))[0];
}

function withDecoder(side: MaterialSide, { decoded }: CompareOptions): DecodedSide {
  return { ...side, decoder: new Decoder(side.reading, decoded) };
}

/** One pair per tile; one for maps without. */
async function pairsOf(
  aspect: Aspect,
  a: DecodedSide,
  b: DecodedSide,
  { grid = COMPARE_DEFAULTS.grid }: CompareOptions,
): Promise<FieldPair[]> {
  const tiles = new Set<number>();
  for (const { material, reading } of [a, b])
    for (const { map } of usesOf(aspect, material))
      for (const { number } of reading.images.find(({ key }) => key === map?.image)?.tiles ?? [])
        tiles.add(number);
  const numbers = tiles.size > 1 ? [...tiles].sort((x, y) => x - y) : [null];
  const pairs: FieldPair[] = [];
  for (const tile of numbers) {
    const [sizesA, sizesB] = [await sizesOf(aspect, a, tile), await sizesOf(aspect, b, tile)];
    const sameSizes = new Set([...sizesA, ...sizesB]).size <= 1;
    const place = { tile, grid: sameSizes ? grid : 0 };
    const [fieldA, fieldB] = [await aspectField(aspect, a, place), await aspectField(aspect, b, place)];
    pairs.push({
      aspect,
      ...onOneGrid(fieldA, fieldB, grid),
      sizes: [sizesA[0] ?? 'no image', sizesB[0] ?? 'no image'],
    });
  }
  return pairs;
}

async function sizesOf(
  aspect: Aspect,
  { material, reading, decoder }: DecodedSide,
  tile: number | null,
): Promise<string[]> {
  const sizes: string[] = [];
  for (const { map } of usesOf(aspect, material)) {
    const path = map && pathOfUse(map, reading.images, tile);
    const pixels = path ? await decoder.pixels(path) : null;
    if (pixels) sizes.push(`${pixels.width} x ${pixels.height}`);
  }
  return sizes;
}

/**
 * Both fields in the smaller one's size, thinned out where that is above the grid. A value alone spreads over
 * the other's.
 */
function onOneGrid(a: Field, b: Field, grid: number): { a: Field; b: Field } {
  const plain = ({ width, height }: Field) => width * height === 1;
  const smaller = plain(a) || (!plain(b) && b.width * b.height < a.width * a.height) ? b : a;
  const { width, height } = smaller;
  return { a: thin(fitField(a, width, height), grid), b: thin(fitField(b, width, height), grid) };
}

function thin(field: Field, grid: number): Field {
  const longest = Math.max(field.width, field.height);
  if (longest <= grid) return field;
  const [width, height] = [field.width, field.height].map((side) =>
    Math.max(1, Math.round((side * grid) / longest)),
  );
  const { size } = field;
  const values = new Float32Array(width * height * size);
  for (let y = 0; y < height; y += 1) {
    const row = Math.floor(((y + 0.5) * field.height) / height) * field.width;
    for (let x = 0; x < width; x += 1) {
      const from = (row + Math.floor(((x + 0.5) * field.width) / width)) * size;
      for (let k = 0; k < size; k += 1) values[(y * width + x) * size + k] = field.values[from + k];
    }
  }
  return { width, height, size, values };
}

/** Numbers of one place as they are compared: colours, which are linear here, by the curve of sRGB. */
export function shownAt({ values, size }: Field, place: number, kind: AspectKind): number[] {
  const out: number[] = [];
  for (let index = place * size; index < (place + 1) * size; index += 1)
    out.push(kind === 'colour' ? encodeSrgb(values[index]) : values[index]);
  return out;
}

/** Half a step of 8 bits, and a little for rounding. */
const HALF_STEP = 0.51 / 255;

function measure(
  pairs: readonly FieldPair[],
  { limit = COMPARE_DEFAULTS.limit }: CompareOptions,
): ChannelDifference {
  const [{ aspect, sizes }] = pairs;
  const { kind } = aspect;
  const size = pairs[0].a.size;
  // The strength of a highlight may be stored as a number, whose half step is many of a colour in the dark.
  const isStrength = aspect.id === 'highlight';
  const range = kind === 'length' ? lengthRange(pairs) : 1;
  const sums = {
    a: new Array<number>(size).fill(0),
    b: new Array<number>(size).fill(0),
    difference: 0,
    deltaE: 0,
  };
  let [largest, largestE, beyond, places] = [0, 0, 0, 0];
  for (const { a, b } of pairs) {
    const count = a.width * a.height;
    places += count;
    for (let i = 0; i < count; i += 1) {
      const shownA = shownAt(a, i, kind);
      const shownB = sameAt(a, b, i) ? shownA : shownAt(b, i, kind);
      let apart = 0;
      for (let k = 0; k < size; k += 1) {
        const stored = isStrength ? Math.abs(a.values[i * size + k] - b.values[i * size + k]) : 1;
        apart = Math.max(apart, stored <= HALF_STEP ? stored : Math.abs(shownA[k] - shownB[k]));
        sums.a[k] += shownA[k];
        sums.b[k] += shownB[k];
      }
      sums.difference += apart;
      largest = Math.max(largest, apart);
      if (apart > limit * range) beyond += 1;
      if (kind !== 'colour' || apart === 0) continue;
      const e = deltaE2000(labOf(threeAt(a, i)), labOf(threeAt(b, i)));
      sums.deltaE += e;
      largestE = Math.max(largestE, e);
    }
  }
  return {
    channel: aspect.id,
    kind,
    mean: sums.difference / places,
    largest,
    deltaE: kind === 'colour' ? { mean: sums.deltaE / places, largest: largestE } : null,
    beyond: beyond / places,
    limit: limit * range,
    places,
    a: sums.a.map((sum) => sum / places),
    b: sums.b.map((sum) => sum / places),
    sizes,
  };
}

function sameAt(a: Field, b: Field, place: number): boolean {
  for (let index = place * a.size; index < (place + 1) * a.size; index += 1)
    if (a.values[index] !== b.values[index]) return false;
  return true;
}

function lengthRange(pairs: readonly FieldPair[]): number {
  let [low, high] = [Infinity, -Infinity];
  for (const { a } of pairs) {
    for (const value of a.values) {
      low = Math.min(low, value);
      high = Math.max(high, value);
    }
  }
  return high > low ? high - low : 1;
}

function threeAt({ values }: Field, place: number): [number, number, number] {
  return [values[place * 3], values[place * 3 + 1], values[place * 3 + 2]];
}
