import { reflectanceOfIndex } from '../scene/shading.ts';
import type { Rgb } from '../scene/material.ts';

/** A plausible starting point for a material, from published optical constants; `docs/materials.md` names the sources. */
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

/** Complex index n + ik at 659.5, 548.6 and 450.9 nm. */
type Conductor = readonly [nRed: number, kRed: number, nGreen: number, kGreen: number, nBlue: number, kBlue: number];

const CONDUCTORS: Record<string, Conductor> = {
  gold: [0.14, 3.697, 0.43, 2.455, 1.38, 1.914],
  silver: [0.05, 4.483, 0.06, 3.586, 0.04, 2.657],
  copper: [0.22, 3.747, 1.02, 2.577, 1.24, 2.397],
};

/** Index at 589 nm, and a roughness as the thing is mostly met. */
const DIELECTRICS: readonly [id: string, title: string, kind: 'dielectric' | 'glass', ior: number, roughness: number][] = [
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

export const STARTING_POINTS: readonly StartingPoint[] = [
  ...Object.entries(CONDUCTORS).map(
    ([id, [nr, kr, ng, kg, nb, kb]]): StartingPoint => ({
      id,
      title: id.replace(/^./, (letter) => letter.toUpperCase()),
      kind: 'metal',
      baseColor: [conductorReflectance(nr, kr), conductorReflectance(ng, kg), conductorReflectance(nb, kb)],
      metalness: 1,
      roughness: 0.2,
      ior: 1.5,
      transmission: 0,
    }),
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
  if (kind === 'metal' && baseColor) return baseColor.map((part) => `${Math.round(part * 100)}%`).join(' ');
  return `${(reflectanceOfIndex(ior) * 100).toFixed(1)}%`;
}
