import Color from 'colorjs.io';
import type { Cell, Plate } from './cells.ts';

/** Red, green and blue, linear. */
export type Rgb = [number, number, number];

/** Stored 8-bit codes of the four stripes, left to right: paint, paint, gold, gold. */
export const CODES = {
  paint: [188, 92, 64],
  gold: [250, 229, 172],
  /** A classic highlight, and what a dielectric reflects, as sRGB codes. */
  highlight: [188, 188, 188],
  dielectric: [56, 56, 56],
  roughness: [128, 51],
  metalness: [0, 255],
  /** Of cut-outs and of blends. */
  mask: [255, 0, 255, 0],
  blend: [255, 64, 255, 64],
} as const;

/** Values where images are multiplied, and where there are none. */
export const FACTORS = {
  base: [0.8, 0.7, 0.6] as Rgb,
  roughness: 0.75,
  metalness: 0.5,
  specular: [1, 1, 1] as Rgb,
  glossiness: 0.75,
};
/** A metal whose base colour is its reflection. */
export const GOLD = { base: [0.963, 0.787, 0.408] as Rgb, roughness: 0.2 };
/** Specular exponent of the plates that are classic. */
export const CLASSIC_EXPONENT = 30;
/** Opacity of blends and glass without an image. */
export const CLEAR_VALUE = { blend: 0.5, glass: 0.2 };

/** Places across the image in the middle of each stripe. */
export const PLACES = [0.125, 0.375, 0.625, 0.875];

/** Linear value of an 8-bit sRGB code, by IEC 61966-2-1. */
export function decodeSrgb(code: number): number {
  const value = code / 255;
  return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
}

const light = (codes: readonly number[]) => codes.map(decodeSrgb) as Rgb;
const times = (a: Rgb, b: Rgb) => a.map((component, k) => component * b[k]) as Rgb;
const mix = (a: number, b: number, share: number) => a + (b - a) * share;

/** What a receiver should see in one stripe. */
export interface Seen {
  base: Rgb;
  metalness: number;
  roughness: number;
  diffuse: Rgb;
  specular: Rgb;
  opacity: number;
}

/** Exponent to roughness: alpha = sqrt(2 / (Ns + 2)), roughness = sqrt(alpha). */
export const roughnessOf = (exponent: number) => Math.sqrt(Math.sqrt(2 / (exponent + 2)));

/**
 * The numbers of one stripe, worked out from CRAFT's formulas and the appendix of
 * KHR_materials_pbrSpecularGlossiness.
 */
export function truthOf(plate: Plate, stripe: number): Seen {
  const gold = stripe >= 2 || plate.values === 'value';
  const opacity = opacityOf(plate, stripe);
  const factor = plate.values === 'both';
  if (plate.written === 'metalRough' || plate.written === 'classicMetal') {
    const painted = light(gold ? CODES.gold : CODES.paint);
    const base = baseOf(plate, factor, painted);
    const metalness = plate.values === 'value' ? 1 : (gold ? 1 : 0) * (factor ? FACTORS.metalness : 1);
    const roughness =
      plate.values === 'value'
        ? GOLD.roughness
        : (CODES.roughness[gold ? 1 : 0] / 255) * (factor ? FACTORS.roughness : 1);
    return { base, metalness, roughness, ...asSpecGloss(base, metalness), opacity };
  }
  if (plate.written === 'classic') {
    const roughness = roughnessOf(CLASSIC_EXPONENT);
    if (gold) {
      const base = plate.values === 'value' ? GOLD.base : light(CODES.gold);
      return { base, metalness: 1, roughness, diffuse: [0, 0, 0], specular: base, opacity };
    }
    const diffuse = factor ? times(light(CODES.paint), FACTORS.base) : light(CODES.paint);
    return { base: diffuse, metalness: 0, roughness, diffuse, specular: light(CODES.highlight), opacity };
  }
  // MTL has no factor of an image of gloss.
  const glossFactor = factor && plate.format !== 'obj' ? FACTORS.glossiness : 1;
  const gloss =
    plate.values === 'value' ? 1 - GOLD.roughness : (1 - CODES.roughness[gold ? 1 : 0] / 255) * glossFactor;
  if (gold) {
    const specular = plate.values === 'value' ? GOLD.base : light(CODES.gold);
    return { base: specular, metalness: 1, roughness: 1 - gloss, diffuse: [0, 0, 0], specular, opacity };
  }
  const diffuse = factor ? times(light(CODES.paint), FACTORS.base) : light(CODES.paint);
  // A reflectance of 0.0395, below 0.04: no metalness, and what specular leaves over 0.96 of the diffuse.
  const specular = light(CODES.dielectric);
  return {
    base: diffuse.map((component) => (component * (1 - specular[0])) / 0.96) as Rgb,
    metalness: 0,
    roughness: 1 - gloss,
    diffuse,
    specular,
    opacity,
  };
}

function baseOf(plate: Plate, factor: boolean, painted: Rgb) {
  if (plate.values === 'value') return GOLD.base;
  return factor ? times(painted, FACTORS.base) : painted;
}

function asSpecGloss(base: Rgb, metalness: number): Pick<Seen, 'diffuse' | 'specular'> {
  return {
    diffuse: base.map((component) => component * (1 - metalness)) as Rgb,
    specular: base.map((component) => mix(0.04, component, metalness)) as Rgb,
  };
}

function opacityOf({ clear, values, format, written }: Plate, stripe: number): number {
  if (clear === 'opaque') return 1;
  if (clear === 'mask') return CODES.mask[stripe] / 255;
  if (clear === 'glass') return transmits(format, written) ? 1 : CLEAR_VALUE.glass;
  return values === 'value' ? CLEAR_VALUE.blend : CODES.blend[stripe] / 255;
}

/** Whether glass is written as transmission; else by a low opacity. */
export function transmits(format: Cell['format'], written: Cell['written']): boolean {
  return format === 'gltf' || (format === 'fbx' && written === 'metalRough');
}

/** A colour of ACEScg in linear Rec.709, by an outside library. */
export function fromAcescg(colour: Rgb): Rgb {
  return new Color('acescg', colour).to('srgb-linear').coords.map((part) => part ?? 0) as Rgb;
}
