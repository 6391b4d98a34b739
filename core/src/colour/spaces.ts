import { KinkajouError } from '../errors.ts';
import type { ColourSpace } from '../scene/material.ts';
import { decodeSrgb, encodeSrgb } from '../scene/transfer.ts';

/** Row-major 3 by 3. */
export type Matrix3 = readonly [number, number, number, number, number, number, number, number, number];

/** x, y of red, green, blue and white. */
export type Chromaticities = readonly [number, number, number, number, number, number, number, number];

/** A curve between stored numbers and light. Both ways are odd-symmetric below 0 and go on above 1. */
export interface Transfer {
  name: string;
  linear: boolean;
  decode(value: number): number;
  encode(value: number): number;
}

/** A colour space by its curve and primaries. */
export interface SpaceDefinition {
  title: string;
  transfer: Transfer;
  /** Linear RGB to CIE XYZ under D65, adapted by Bradford where the space's white is another. */
  toXyz: Matrix3;
}

const LINEAR: Transfer = { name: 'linear', linear: true, decode: (value) => value, encode: (value) => value };
const SRGB: Transfer = { name: 'sRGB', linear: false, decode: decodeSrgb, encode: encodeSrgb };

function power(name: string, gamma: number): Transfer {
  return {
    name,
    linear: false,
    decode: (value) => Math.sign(value) * Math.abs(value) ** gamma,
    encode: (value) => Math.sign(value) * Math.abs(value) ** (1 / gamma),
  };
}

const GAMMA_22 = power('gamma 2.2', 2.2);
const GAMMA_18 = power('gamma 1.8', 1.8);
/** Adobe RGB (1998), section 4.3.4.2: 2 + 51 / 256. */
const GAMMA_ADOBE = power('gamma 2.2', 563 / 256);

const D65 = [0.3127, 0.329] as const;
/** SMPTE ST 2065-1. */
const ACES_WHITE = [0.32168, 0.33767] as const;

/** ITU-R BT.709, SMPTE EG 432-1, ITU-R BT.2020, Adobe RGB (1998), S-2014-004 (AP1), SMPTE ST 2065-1 (AP0). */
const REC709: Chromaticities = [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, ...D65];
const P3D65: Chromaticities = [0.68, 0.32, 0.265, 0.69, 0.15, 0.06, ...D65];
const REC2020: Chromaticities = [0.708, 0.292, 0.17, 0.797, 0.131, 0.046, ...D65];
const ADOBE: Chromaticities = [0.64, 0.33, 0.21, 0.71, 0.15, 0.06, ...D65];
const AP1: Chromaticities = [0.713, 0.293, 0.165, 0.83, 0.128, 0.044, ...ACES_WHITE];
const AP0: Chromaticities = [0.7347, 0.2653, 0, 1, 0.0001, -0.077, ...ACES_WHITE];

const IDENTITY: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1];

/** Cone responses of Bradford's transform. */
const BRADFORD: Matrix3 = [0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296];

const define = (title: string, primaries: Chromaticities, transfer: Transfer): SpaceDefinition => ({
  title,
  transfer,
  toXyz: matrixToXyz(primaries),
});

/** Every space but `data` and `unknown`, which are no colour. */
export const SPACES: Readonly<Record<Exclude<ColourSpace, 'data' | 'unknown'>, SpaceDefinition>> = {
  srgb_rec709_scene: define('sRGB', REC709, SRGB),
  g22_rec709_scene: define('Rec.709, gamma 2.2', REC709, GAMMA_22),
  g18_rec709_scene: define('Rec.709, gamma 1.8', REC709, GAMMA_18),
  lin_rec709_scene: define('linear Rec.709', REC709, LINEAR),
  lin_p3d65_scene: define('linear P3-D65', P3D65, LINEAR),
  srgb_p3d65_scene: define('P3-D65, sRGB curve', P3D65, SRGB),
  lin_rec2020_scene: define('linear Rec.2020', REC2020, LINEAR),
  lin_adobergb_scene: define('linear Adobe RGB', ADOBE, LINEAR),
  g22_adobergb_scene: define('Adobe RGB', ADOBE, GAMMA_ADOBE),
  lin_ap1_scene: define('ACEScg', AP1, LINEAR),
  g22_ap1_scene: define('AP1, gamma 2.2', AP1, GAMMA_22),
  srgb_ap1_scene: define('AP1, sRGB curve', AP1, SRGB),
  lin_ap0_scene: define('ACES2065-1', AP0, LINEAR),
  lin_ciexyzd65_scene: { title: 'CIE XYZ, D65', transfer: LINEAR, toXyz: IDENTITY },
};

/** Primaries and white of each RGB space. */
export const PRIMARIES_OF: Readonly<Partial<Record<ColourSpace, Chromaticities>>> = {
  srgb_rec709_scene: REC709,
  g22_rec709_scene: REC709,
  g18_rec709_scene: REC709,
  lin_rec709_scene: REC709,
  lin_p3d65_scene: P3D65,
  srgb_p3d65_scene: P3D65,
  lin_rec2020_scene: REC2020,
  lin_adobergb_scene: ADOBE,
  g22_adobergb_scene: ADOBE,
  lin_ap1_scene: AP1,
  g22_ap1_scene: AP1,
  srgb_ap1_scene: AP1,
  lin_ap0_scene: AP0,
};

/** True for spaces whose numbers are colours. */
export function isColourSpace(space: ColourSpace): space is keyof typeof SPACES {
  return Object.hasOwn(SPACES, space);
}

/** Throws `colour.space` for `data` and `unknown`. */
export function spaceDefinition(space: ColourSpace): SpaceDefinition {
  if (isColourSpace(space)) return SPACES[space];
  throw new KinkajouError(
    'colour.space',
    `"${space}" names no colour space`,
    {},
    'Give the image a colour tag first.',
  );
}

/** How the numbers of one space become those of another: decode, multiply, encode. */
export interface Conversion {
  decode(value: number): number;
  /** Linear to linear; null where both share their primaries. */
  matrix: Matrix3 | null;
  encode(value: number): number;
}

/** Conversions by where they lead from and to; each is worked out once. */
const conversions = new Map<ColourSpace, Map<ColourSpace, Conversion>>();

/** The conversion between two colour spaces. Throws `colour.space` for `data` and `unknown`. */
export function conversionOf(from: ColourSpace, to: ColourSpace): Conversion {
  const existing = conversions.get(from)?.get(to);
  if (existing) return existing;
  const made = makeConversion(spaceDefinition(from), spaceDefinition(to));
  conversions.set(from, (conversions.get(from) ?? new Map<ColourSpace, Conversion>()).set(to, made));
  return made;
}

function makeConversion(source: SpaceDefinition, target: SpaceDefinition): Conversion {
  const matrix = source.toXyz === target.toXyz ? null : multiply(invert(target.toXyz), source.toXyz);
  const same = !matrix || matrix.every((value, i) => Math.abs(value - IDENTITY[i]) < 1e-9);
  return { decode: source.transfer.decode, matrix: same ? null : matrix, encode: target.transfer.encode };
}

/** Converts one colour; see {@link conversionOf}. */
export function convertColour(
  [r, g, b]: readonly number[],
  from: ColourSpace,
  to: ColourSpace,
): [number, number, number] {
  const { decode, matrix, encode } = conversionOf(from, to);
  const light = [decode(r), decode(g), decode(b)] as const;
  const [x, y, z] = matrix ? transform(matrix, light) : light;
  return [encode(x), encode(y), encode(z)];
}

/**
 * Linear RGB to XYZ under D65 from chromaticities (SMPTE RP 177), with Bradford's adaptation for other
 * whites. Y of white is 1.
 */
export function matrixToXyz(chromaticities: Chromaticities): Matrix3 {
  const [rx, ry, gx, gy, bx, by, wx, wy] = chromaticities;
  const column = (x: number, y: number) => [x, y, 1 - x - y] as const;
  const [r, g, b] = [column(rx, ry), column(gx, gy), column(bx, by)];
  const primaries: Matrix3 = [r[0], g[0], b[0], r[1], g[1], b[1], r[2], g[2], b[2]];
  const white = whiteXyz(wx, wy);
  const [sr, sg, sb] = transform(invert(primaries), white);
  const toXyz = primaries.map((value, i) => value * [sr, sg, sb][i % 3]) as unknown as Matrix3;
  return multiply(adaptation(white, whiteXyz(...D65)), toXyz);
}

function whiteXyz(x: number, y: number): [number, number, number] {
  return [x / y, 1, (1 - x - y) / y];
}

function adaptation(from: readonly number[], to: readonly number[]): Matrix3 {
  if (from.every((value, i) => Math.abs(value - to[i]) < 1e-12)) return IDENTITY;
  const [a, b] = [transform(BRADFORD, from), transform(BRADFORD, to)];
  const scale: Matrix3 = [b[0] / a[0], 0, 0, 0, b[1] / a[1], 0, 0, 0, b[2] / a[2]];
  return multiply(invert(BRADFORD), multiply(scale, BRADFORD));
}

function transform(m: Matrix3, [x, y, z]: readonly number[]): [number, number, number] {
  return [m[0] * x + m[1] * y + m[2] * z, m[3] * x + m[4] * y + m[5] * z, m[6] * x + m[7] * y + m[8] * z];
}

function multiply(a: Matrix3, b: Matrix3): Matrix3 {
  const out = Array.from({ length: 9 }, (_, i) => {
    const [row, column] = [Math.floor(i / 3) * 3, i % 3];
    return a[row] * b[column] + a[row + 1] * b[column + 3] + a[row + 2] * b[column + 6];
  });
  return out as unknown as Matrix3;
}

function invert(m: Matrix3): Matrix3 {
  const [a, b, c, d, e, f, g, h, i] = m;
  const [A, B, C] = [e * i - f * h, f * g - d * i, d * h - e * g];
  const det = a * A + b * B + c * C;
  return [
    A,
    c * h - b * i,
    b * f - c * e,
    B,
    a * i - c * g,
    c * d - a * f,
    C,
    b * g - a * h,
    a * e - b * d,
  ].map((value) => value / det) as unknown as Matrix3;
}

/**
 * What a scalar's stored number goes through when its image is tagged with a colour space: that space's
 * curve. Null for data, for linear spaces and for alpha, which no curve ever applies to.
 */
export function scalarCurve(space: ColourSpace, component: string): ((stored: number) => number) | null {
  if (component === 'a' || !isColourSpace(space) || space.startsWith('lin_')) return null;
  return conversionOf(space, 'lin_rec709_scene').decode;
}
