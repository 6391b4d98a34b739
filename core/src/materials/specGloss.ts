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
    diffuse: baseColor.map((part) => part * (1 - metalness)) as Rgb,
    specular: baseColor.map((part) => DIELECTRIC + (part - DIELECTRIC) * metalness) as Rgb,
    glossiness: 1 - roughness,
  };
}

/**
 * Solves metalness from the brightness of diffuse and specular, then takes the base colour from both, mixed by metalness
 * squared: the conversion of the appendix of KHR_materials_pbrSpecularGlossiness. All results lie in 0..1.
 */
export function fromSpecGloss({ diffuse, specular, glossiness }: SpecGloss): MetalRoughValues {
  const rest = 1 - Math.max(...specular);
  const metalness = solveMetalness(brightness(diffuse), brightness(specular), rest);
  const baseColor = diffuse.map((part, i) => {
    const fromDiffuse = (part * rest) / ((1 - DIELECTRIC) * Math.max(1 - metalness, EPSILON));
    const fromSpecular = (specular[i] - DIELECTRIC * (1 - metalness)) / Math.max(metalness, EPSILON);
    return clamp(fromDiffuse + (fromSpecular - fromDiffuse) * metalness * metalness);
  }) as Rgb;
  return { baseColor, metalness, roughness: 1 - glossiness };
}

/**
 * How much of a spec/gloss surface the metal/rough model cannot hold: the largest difference of any part of diffuse and
 * specular after going there and back, in 0..1. The diffuse of the two models stands for different shares of the light,
 * so both are compared as they leave the surface: diffuse times what specular lets through.
 */
export function specGlossResidual(surface: SpecGloss): number {
  const { baseColor, metalness } = fromSpecGloss(surface);
  const rest = 1 - Math.max(...surface.specular);
  let largest = 0;
  for (let i = 0; i < 3; i += 1) {
    const light = baseColor[i] * (1 - metalness) * (1 - DIELECTRIC);
    const mirror = DIELECTRIC + (baseColor[i] - DIELECTRIC) * metalness;
    largest = Math.max(largest, Math.abs(light - surface.diffuse[i] * rest), Math.abs(mirror - surface.specular[i]));
  }
  return largest;
}

/** The root in 0..1 of the appendix's quadratic; 0 where specular is weaker than any dielectric's. */
function solveMetalness(diffuse: number, specular: number, rest: number): number {
  if (specular < DIELECTRIC) return 0;
  const a = DIELECTRIC;
  const b = (diffuse * rest) / (1 - DIELECTRIC) + specular - 2 * DIELECTRIC;
  const c = DIELECTRIC - specular;
  return clamp((-b + Math.sqrt(Math.max(b * b - 4 * a * c, 0))) / (2 * a));
}

/** Perceived brightness of linear light: root of 0.299 r^2 + 0.587 g^2 + 0.114 b^2. */
function brightness([r, g, b]: Rgb): number {
  return Math.sqrt(0.299 * r * r + 0.587 * g * g + 0.114 * b * b);
}

function clamp(value: number): number {
  return Math.min(1, Math.max(0, value));
}
