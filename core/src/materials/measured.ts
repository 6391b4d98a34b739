import type { Rgb } from '../scene/material.ts';
import { reflectanceOfIndex } from '../scene/shading.ts';

/**
 * A plausible starting point for a material, from published optical constants; `docs/materials.md` names the
 * sources.
 */
export interface StartingPoint {
  id: string;
  title: string;
  kind: 'metal' | 'dielectric' | 'glass';
  /** Linear Rec.709. Null leaves the material's own colour. */
  baseColor: Rgb | null;
  metalness: 0 | 1;
  roughness: number;
  /** Of dielectrics; 1.5 for metals, whose colour says it all. */
  ior: number;
  transmission: number;
}

/** Complex index n + ik in red, green and blue. */
export type Conductor = readonly [
  nRed: number,
  kRed: number,
  nGreen: number,
  kGreen: number,
  nBlue: number,
  kBlue: number,
];

/** Where the constants were published; `docs/materials.md` names the papers. Wavelengths in nanometres. */
export const CONDUCTOR_SOURCES = {
  johnsonChristy: { title: 'Johnson and Christy 1972', wavelengths: [659.5, 548.6, 450.9] },
  rakic: { title: 'Rakić and others 1998, Lorentz-Drude model', wavelengths: [650, 550, 450] },
  horiba: { title: 'Horiba Technical Note 09, Drude model', wavelengths: [650, 550, 450] },
} as const;

/** A metal by its complex index of refraction, and where that was published. */
export interface MeasuredMetal {
  source: keyof typeof CONDUCTOR_SOURCES;
  index: Conductor;
}

/** Index of refraction and extinction, at the red, green and blue wavelength of their source in turn. */
export const MEASURED_METALS: Readonly<Record<string, MeasuredMetal>> = {
  gold: { source: 'johnsonChristy', index: [0.14, 3.697, 0.43, 2.455, 1.38, 1.914] },
  silver: { source: 'johnsonChristy', index: [0.05, 4.483, 0.06, 3.586, 0.04, 2.657] },
  copper: { source: 'johnsonChristy', index: [0.22, 3.747, 1.02, 2.577, 1.24, 2.397] },
  aluminium: { source: 'rakic', index: [1.42, 7.467, 0.966, 6.458, 0.59, 5.311] },
  beryllium: { source: 'rakic', index: [3.44, 3.192, 3.346, 3.152, 3.08, 3.143] },
  chromium: { source: 'rakic', index: [3.535, 4.348, 2.901, 4.231, 2.145, 3.862] },
  nickel: { source: 'rakic', index: [2.059, 3.764, 1.815, 3.259, 1.649, 2.671] },
  palladium: { source: 'rakic', index: [1.859, 4.275, 1.643, 3.776, 1.408, 3.225] },
  platinum: { source: 'rakic', index: [2.37, 4.254, 2.091, 3.704, 1.851, 3.14] },
  titanium: { source: 'rakic', index: [2.095, 3.199, 1.79, 3.002, 1.334, 2.76] },
  tungsten: { source: 'rakic', index: [3.717, 2.884, 3.456, 2.757, 3.37, 2.526] },
  cobalt: { source: 'horiba', index: [2.95, 3.409, 2.639, 3.105, 2.292, 2.746] },
  molybdenum: { source: 'horiba', index: [2.995, 3.971, 2.66, 3.71, 2.282, 3.424] },
};

/** Index at 589 nm, and a roughness as the thing is mostly met. */
const DIELECTRICS: readonly [
  id: string,
  title: string,
  kind: 'dielectric' | 'glass',
  ior: number,
  roughness: number,
][] = [
  ['water', 'Water', 'glass', 1.333, 0],
  ['ice', 'Ice', 'glass', 1.309, 0.05],
  ['silica', 'Fused silica', 'glass', 1.458, 0],
  ['crown', 'Crown glass', 'glass', 1.517, 0],
  ['flint', 'Dense flint glass', 'glass', 1.728, 0],
  ['acrylic', 'Acrylic', 'dielectric', 1.491, 0.1],
  ['polycarbonate', 'Polycarbonate', 'dielectric', 1.586, 0.2],
  ['polystyrene', 'Polystyrene', 'dielectric', 1.592, 0.4],
];

/** Reflectance of a conductor in air at normal incidence: ((n - 1)^2 + k^2) / ((n + 1)^2 + k^2). */
export function conductorReflectance(n: number, k: number): number {
  return ((n - 1) ** 2 + k * k) / ((n + 1) ** 2 + k * k);
}

/**
 * Reflectance in red, green and blue, taken as linear Rec.709: three samples of a spectrum, not its
 * colorimetric integral.
 */
export function metalColour([nr, kr, ng, kg, nb, kb]: Conductor): Rgb {
  return [conductorReflectance(nr, kr), conductorReflectance(ng, kg), conductorReflectance(nb, kb)];
}

/** A metal of one's own constants as a starting point. */
export function metalFrom(id: string, title: string, index: Conductor): StartingPoint {
  return {
    id,
    title,
    kind: 'metal',
    baseColor: metalColour(index),
    metalness: 1,
    roughness: 0.2,
    ior: 1.5,
    transmission: 0,
  };
}

/** Materials to start from: measured metals, and dielectrics by their index of refraction. */
export const STARTING_POINTS: readonly StartingPoint[] = [
  ...Object.entries(MEASURED_METALS).map(([id, { index }]) =>
    metalFrom(
      id,
      id.replace(/^./, (letter) => letter.toUpperCase()),
      index,
    ),
  ),
  ...DIELECTRICS.map(
    ([id, title, kind, ior, roughness]): StartingPoint => ({
      id,
      title,
      kind,
      baseColor: kind === 'glass' ? [1, 1, 1] : null,
      metalness: 0,
      roughness,
      ior,
      transmission: kind === 'glass' ? 1 : 0,
    }),
  ),
];

/** What a starting point reflects at normal incidence, in words. */
export function reflectanceInWords({ kind, baseColor, ior }: StartingPoint): string {
  if (kind === 'metal' && baseColor)
    return baseColor.map((component) => `${Math.round(component * 100)}%`).join(' ');
  return `${(reflectanceOfIndex(ior) * 100).toFixed(1)}%`;
}
