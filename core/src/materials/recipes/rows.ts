import { conversionOf, isColourSpace } from '../../colour/spaces.ts';
import { mixesComponents, resizeBuffer } from '../../images/components.ts';
import { type PixelArray, type PixelBuffer, unitOf } from '../../images/pixelBuffer.ts';
import { readStored } from '../../scene/mapUse.ts';
import type { ColourSpace, Component, MapUse, Rgb } from '../../scene/material.ts';
import { colourValue, scalarValue } from '../../scene/material.ts';
import type { ChoiceParam, Progress, RecipeInput } from './recipe.ts';

/** Colours are computed with in linear Rec.709, whatever their image is tagged. */
export const WORKING: ColourSpace = 'lin_rec709_scene';

/** Width and height of an image in pixels. */
export interface Grid {
  width: number;
  height: number;
}

/** Fills one row: three numbers per pixel for colours, one for scalars. */
export type RowReader = (y: number, into: Float64Array) => void;
/** Takes the components of row `y`. */
export type RowWriter = (y: number, from: Float64Array) => void;

const MASKS: Record<Exclude<Component, 'rgb' | 'luminance'>, number> = { r: 0, g: 1, b: 2, a: 3 };
/** Steps of the table from light to 8-bit codes. */
const ENCODE_STEPS = 65_535;
const BAND = 64;

/**
 * The size that holds every input: the largest width and the largest height. Null where no input has pixels.
 */
export function gridOf(inputs: readonly RecipeInput[]): Grid | null {
  const sizes = inputs.flatMap(({ pixels }) => (pixels ? [pixels] : []));
  if (sizes.length === 0) return null;
  return {
    width: Math.max(...sizes.map(({ width }) => width)),
    height: Math.max(...sizes.map(({ height }) => height)),
  };
}

/** An empty image of the deepest of the inputs' depths. */
export function imageLike(
  inputs: readonly RecipeInput[],
  { width, height }: Grid,
  components: number,
): PixelBuffer {
  const arrays = inputs.flatMap(({ pixels }) => (pixels ? [pixels.data] : []));
  const length = width * height * components;
  const data: PixelArray = widestArray(arrays, length);
  return { width, height, components, data };
}

function widestArray(arrays: PixelArray[], length: number): PixelArray {
  if (arrays.some((array) => array instanceof Float32Array)) return new Float32Array(length);
  return arrays.some((array) => array instanceof Uint16Array)
    ? new Uint16Array(length)
    : new Uint8Array(length);
}

/** Light of a colour channel, its value times its map, in {@link WORKING}. */
export function colourReader({ value, map, pixels }: RecipeInput, grid: Grid): RowReader {
  const factor = colourValue(value);
  if (!pixels || !map) return constantReader(factor, grid.width);
  const { components, data } = resizeBuffer(pixels, grid.width, grid.height);
  const [curve, matrix] = decoding(map);
  const places = placesOf(map.component, components);
  const [fr, fg, fb] = factor;
  const scale = (into: Float64Array) => {
    if (matrix) {
      const [m0, m1, m2, m3, m4, m5, m6, m7, m8] = matrix;
      for (let to = 0; to < grid.width * 3; to += 3) {
        const [r, g, b] = [into[to], into[to + 1], into[to + 2]];
        into[to] = m0 * r + m1 * g + m2 * b;
        into[to + 1] = m3 * r + m4 * g + m5 * b;
        into[to + 2] = m6 * r + m7 * g + m8 * b;
      }
    }
    if (fr === 1 && fg === 1 && fb === 1) return;
    for (let to = 0; to < grid.width * 3; to += 3) {
      into[to] *= fr;
      into[to + 1] *= fg;
      into[to + 2] *= fb;
    }
  };
  if (mixesComponents(map.component, components)) {
    const unit = unitOf(data);
    return (y, into) => {
      for (let to = 0, index = y * grid.width * components; to < grid.width * 3; to += 3, index += components)
        into[to] =
          into[to + 1] =
          into[to + 2] =
            curve((0.2126 * data[index] + 0.7152 * data[index + 1] + 0.0722 * data[index + 2]) / unit);
      scale(into);
    };
  }
  const [pr, pg, pb] = places;
  const table = tableOf(data, curve);
  return (y, into) => {
    let offset = y * grid.width * components;
    if (table) {
      for (let to = 0; to < grid.width * 3; to += 3, offset += components) {
        into[to] = table[data[offset + pr]];
        into[to + 1] = table[data[offset + pg]];
        into[to + 2] = table[data[offset + pb]];
      }
    } else {
      for (let to = 0; to < grid.width * 3; to += 3, offset += components) {
        into[to] = curve(data[offset + pr]);
        into[to + 1] = curve(data[offset + pg]);
        into[to + 2] = curve(data[offset + pb]);
      }
    }
    scale(into);
  };
}

/** Numbers of a scalar channel, its value times its map. */
export function scalarReader({ value, map, pixels }: RecipeInput, grid: Grid): RowReader {
  const factor = scalarValue(value);
  if (!pixels || !map) return (_, into) => into.fill(factor, 0, grid.width);
  const { components, data } = resizeBuffer(pixels, grid.width, grid.height);
  const adjusted = (stored: number) => readStored(map, stored) * factor;
  if (mixesComponents(map.component, components)) {
    const unit = unitOf(data);
    return (y, into) => {
      for (let x = 0, index = y * grid.width * components; x < grid.width; x += 1, index += components)
        into[x] = adjusted(
          (0.2126 * data[index] + 0.7152 * data[index + 1] + 0.0722 * data[index + 2]) / unit,
        );
    };
  }
  const table = tableOf(data, adjusted);
  const [place] = placesOf(map.component, components);
  if (place < 0) return (_, into) => into.fill(adjusted(1), 0, grid.width);
  return (y, into) => {
    let offset = y * grid.width * components + place;
    if (table) for (let x = 0; x < grid.width; x += 1, offset += components) into[x] = table[data[offset]];
    else for (let x = 0; x < grid.width; x += 1, offset += components) into[x] = adjusted(data[offset]);
  };
}

/** Alpha as stored, 1 where there is none. */
export function alphaReader(pixels: PixelBuffer): RowReader {
  const { width, components, data } = pixels;
  if (components !== 2 && components !== 4) return (_, into) => into.fill(1, 0, width);
  const unit = unitOf(data);
  return (y, into) => {
    for (let x = 0, index = (y * width + 1) * components - 1; x < width; x += 1, index += components)
      into[x] = data[index] / unit;
  };
}

/**
 * Writes light in {@link WORKING} as numbers of a space, rounded to nearest; a fourth component is left
 * alone. The row is used up.
 */
export function colourWriter({ width, components, data }: PixelBuffer, space: ColourSpace): RowWriter {
  const { matrix, encode } = isColourSpace(space)
    ? conversionOf(WORKING, space)
    : { matrix: null, encode: (value: number) => value };
  const write = quantiser(data, encode);
  const codes = data instanceof Uint8Array ? codeTable(encode) : null;
  return (y, from) => {
    if (matrix) {
      const [m0, m1, m2, m3, m4, m5, m6, m7, m8] = matrix;
      for (let read = 0; read < width * 3; read += 3) {
        const [r, g, b] = [from[read], from[read + 1], from[read + 2]];
        from[read] = m0 * r + m1 * g + m2 * b;
        from[read + 1] = m3 * r + m4 * g + m5 * b;
        from[read + 2] = m6 * r + m7 * g + m8 * b;
      }
    }
    let index = y * width * components;
    if (codes) {
      for (let read = 0; read < width * 3; read += 3, index += components) {
        data[index] = codes[step(from[read])];
        data[index + 1] = codes[step(from[read + 1])];
        data[index + 2] = codes[step(from[read + 2])];
      }
    } else {
      for (let read = 0; read < width * 3; read += 3, index += components) {
        data[index] = write(from[read]);
        data[index + 1] = write(from[read + 1]);
        data[index + 2] = write(from[read + 2]);
      }
    }
  };
}

/**
 * Writes numbers as they are to one component, rounded to nearest and kept in 0..1 where the image holds
 * integers.
 */
export function scalarWriter({ width, components, data }: PixelBuffer, component = 0): RowWriter {
  const write = quantiser(data, null);
  return (y, from) => {
    for (let x = 0, index = y * width * components + component; x < width; x += 1, index += components)
      data[index] = write(from[x]);
  };
}

/** Runs over the rows, telling progress between bands. */
export async function eachRow(grid: Grid, progress: Progress, work: (y: number) => void): Promise<void> {
  for (let y = 0; y < grid.height; y += 1) {
    work(y);
    if (y % BAND === BAND - 1) await progress((y + 1) / grid.height);
  }
}

function constantReader([r, g, b]: Rgb, width: number): RowReader {
  return (_, into) => {
    for (let to = 0; to < width * 3; to += 3) {
      into[to] = r;
      into[to + 1] = g;
      into[to + 2] = b;
    }
  };
}

/** Stored number to light of the tag's primaries, and the matrix from these. */
function decoding(map: MapUse): [(stored: number) => number, readonly number[] | null] {
  const { space, exponent = 1 } = map;
  const adjusted = (stored: number) => readStored(map, stored);
  const raised =
    exponent === 1
      ? adjusted
      : (stored: number) => Math.sign(adjusted(stored)) * Math.abs(adjusted(stored)) ** exponent;
  if (!isColourSpace(space)) return [raised, null];
  const { decode, matrix } = conversionOf(space, WORKING);
  return [(stored) => decode(raised(stored)), matrix];
}

/** One entry per code for integers; null for floats, which go through the function itself. */
function tableOf(data: PixelArray, work: (stored: number) => number): Float64Array | null {
  if (data instanceof Float32Array) return null;
  const unit = unitOf(data);
  return Float64Array.from({ length: unit + 1 }, (_, code) => work(code / unit));
}

/** 8-bit codes by light in even steps. */
function codeTable(encode: (value: number) => number): Uint8Array {
  return Uint8Array.from({ length: ENCODE_STEPS + 1 }, (_, i) =>
    Math.round(Math.min(1, Math.max(0, encode(i / ENCODE_STEPS))) * 255),
  );
}

function step(value: number): number {
  if (value <= 0) return 0;
  return value >= 1 ? ENCODE_STEPS : (value * ENCODE_STEPS + 0.5) | 0;
}

/** Where r, g and b of a component lie in a pixel; -1 for an alpha that is not there. */
function placesOf(component: Component, components: number): [number, number, number] {
  if (component === 'rgb') return components < 3 ? [0, 0, 0] : [0, 1, 2];
  if (component === 'luminance') return [0, 0, 0];
  const hasAlpha = components === 2 || components === 4;
  const place = placeOf(component, hasAlpha, components);
  return [place, place, place];
}

function placeOf(component: keyof typeof MASKS, hasAlpha: boolean, components: number) {
  if (component === 'a') return hasAlpha ? components - 1 : -1;
  return components < 3 ? 0 : MASKS[component];
}

function quantiser(data: PixelArray, encode: ((value: number) => number) | null): (value: number) => number {
  if (data instanceof Float32Array) return encode ?? ((value) => value);
  const unit = unitOf(data);
  const clamp = (value: number) => Math.min(1, Math.max(0, value));
  if (!encode) return (value) => Math.round(clamp(value) * unit);
  return (value) => Math.round(clamp(encode(clamp(value))) * unit);
}

/**
 * The parameter of recipes that undo a multiplication: whether it was done in the stored numbers or in light.
 */
export const MULTIPLIED_IN: ChoiceParam = {
  key: 'in',
  title: 'Multiplied in',
  choices: [
    { value: 'stored', title: 'stored numbers' },
    { value: 'light', title: 'linear light' },
  ],
  fallback: 'stored',
};

/** A map whose colours are changed row by row, in the stored numbers or in light. Alpha stays as it is. */
export async function rewriteColour(
  input: RecipeInput & { map: MapUse; pixels: PixelBuffer },
  stored: boolean,
  progress: Progress,
  change: (row: Float64Array, y: number) => void,
): Promise<PixelBuffer> {
  const { map, pixels } = input;
  const { width, height, components } = pixels;
  const grid = { width, height };
  const hasAlpha = components === 2 || components === 4;
  const out = imageLike([input], grid, hasAlpha ? 4 : 3);
  const read = colourReader(stored ? { ...input, map: { ...map, space: 'data' } } : input, grid);
  const write = colourWriter(out, stored ? 'data' : map.space);
  const [readAlpha, writeAlpha] = [alphaReader(pixels), scalarWriter(out, 3)];
  const [row, alphas] = [new Float64Array(width * 3), new Float64Array(width)];
  await eachRow(grid, progress, (y) => {
    read(y, row);
    change(row, y);
    write(y, row);
    if (!hasAlpha) return;
    readAlpha(y, alphas);
    writeAlpha(y, alphas);
  });
  return out;
}

/** Whether any part of a colour is above white. */
export function isBeyondWhite(row: Float64Array, index: number): boolean {
  return row[index] > 1 || row[index + 1] > 1 || row[index + 2] > 1;
}
