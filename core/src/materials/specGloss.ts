import type { Rgb } from '../scene/material.ts';

/** A surface by diffuse colour, specular colour and glossiness; colours in linear light. */
export interface SpecGloss {
  diffuse: Rgb;
  specular: Rgb;
  glossiness: number;
}

/** A surface by base colour, metalness and roughness; the colour in linear light. */
export interface MetalRoughValues {
  baseColor: Rgb;
  metalness: number;
  roughness: number;
}

/** What dielectrics reflect at normal incidence in the metal/rough model. */
export const DIELECTRIC = 0.04;
const EPSILON = 1e-6;

/** diffuse = base (1 - metalness), specular = mix(0.04, base, metalness), glossiness = 1 - roughness. */
export function toSpecGloss({ baseColor, metalness, roughness }: MetalRoughValues): SpecGloss {
  return {
    diffuse: baseColor.map((component) => component * (1 - metalness)) as Rgb,
    specular: baseColor.map((component) => DIELECTRIC + (component - DIELECTRIC) * metalness) as Rgb,
    glossiness: 1 - roughness,
  };
}

/**
 * Solves metalness from the brightness of diffuse and specular, then takes the base colour from both, mixed
 * by metalness squared: the conversion of the appendix of KHR_materials_pbrSpecularGlossiness. All results
 * lie in 0..1.
 */
export function fromSpecGloss({ diffuse, specular, glossiness }: SpecGloss): MetalRoughValues {
  const out = new Float64Array(4);
  solveMetalRough(diffuse, specular, out);
  return { baseColor: [out[0], out[1], out[2]], metalness: out[3], roughness: 1 - glossiness };
}

/** The same for who has millions of pixels: writes base r, g, b and metalness to `out`. */
export function solveMetalRough(
  [dr, dg, db]: Readonly<Rgb>,
  [sr, sg, sb]: Readonly<Rgb>,
  out: Float64Array,
): void {
  const rest = 1 - Math.max(sr, sg, sb);
  const metalness = solveMetalness(brightness(dr, dg, db), brightness(sr, sg, sb), rest);
  const byDiffuse = rest / ((1 - DIELECTRIC) * Math.max(1 - metalness, EPSILON));
  const plain = DIELECTRIC * (1 - metalness);
  const bySpecular = 1 / Math.max(metalness, EPSILON);
  const share = metalness * metalness;
  out[0] = mixed(dr * byDiffuse, (sr - plain) * bySpecular, share);
  out[1] = mixed(dg * byDiffuse, (sg - plain) * bySpecular, share);
  out[2] = mixed(db * byDiffuse, (sb - plain) * bySpecular, share);
  out[3] = metalness;
}

/**
 * How much of a spec/gloss surface the metal/rough model cannot hold: the largest difference of any part of
 * diffuse and specular after going there and back, in 0..1. The diffuse of the two models stands for
 * different shares of the light, so both are compared as they leave the surface: diffuse times what specular
 * lets through.
 */
export function specGlossResidual({ diffuse, specular }: SpecGloss): number {
  const out = new Float64Array(4);
  solveMetalRough(diffuse, specular, out);
  return residualOf(diffuse, specular, out);
}

/** The same from what {@link solveMetalRough} wrote. */
export function residualOf(
  [dr, dg, db]: Readonly<Rgb>,
  [sr, sg, sb]: Readonly<Rgb>,
  solved: Float64Array,
): number {
  const metalness = solved[3];
  const rest = 1 - Math.max(sr, sg, sb);
  const through = (1 - metalness) * (1 - DIELECTRIC);
  const part = (base: number, diffuse: number, specular: number) =>
    Math.max(
      Math.abs(base * through - diffuse * rest),
      Math.abs(DIELECTRIC + (base - DIELECTRIC) * metalness - specular),
    );
  return Math.max(part(solved[0], dr, sr), part(solved[1], dg, sg), part(solved[2], db, sb));
}

/**
 * The root in 0..1 of the appendix's quadratic; 0 where specular is no stronger than a dielectric's. Right there
 * a dark surface has another root, which makes it a metal for the rounding of a sum.
 */
function solveMetalness(diffuse: number, specular: number, rest: number): number {
  if (specular < DIELECTRIC + EPSILON) return 0;
  const a = DIELECTRIC;
  const b = (diffuse * rest) / (1 - DIELECTRIC) + specular - 2 * DIELECTRIC;
  const c = DIELECTRIC - specular;
  return clamp((-b + Math.sqrt(Math.max(b * b - 4 * a * c, 0))) / (2 * a));
}

/** Perceived brightness of linear light: root of 0.299 r^2 + 0.587 g^2 + 0.114 b^2. */
function brightness(r: number, g: number, b: number): number {
  return Math.sqrt(0.299 * r * r + 0.587 * g * g + 0.114 * b * b);
}

function mixed(a: number, b: number, share: number): number {
  return clamp(a + (b - a) * share);
}

function clamp(value: number): number {
  return Math.min(1, Math.max(0, value));
}
