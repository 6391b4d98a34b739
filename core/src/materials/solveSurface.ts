import type { Rgb } from '../scene/material.ts';
import { classicMetalShare } from './shadingModel.ts';
import { DIELECTRIC, residualOf, solveMetalRough } from './specGloss.ts';

/**
 * What a specular colour is: reflectance at normal incidence, or a classic one as a value or as painted in an
 * image.
 */
export type SpecularKind = 'reflectance' | 'classic' | 'painted';

/**
 * Gives base r, g, b and metalness of a diffuse and specular colour, and their residual in 0..1. Both results
 * are used anew.
 */
export type Solve = (
  diffuse: Readonly<Rgb>,
  specular: Readonly<Rgb>,
) => readonly [solved: Float64Array, residual: number];

/**
 * Spec/gloss to metal/rough for one surface after the other; colours in linear light. Of classic colours only
 * what is a metal's by `classicMetalShare` is solved; the rest keeps its diffuse as the base, and its
 * highlight is no loss.
 */
export function createSolver(kind: SpecularKind): Solve {
  const solved = new Float64Array(4);
  const metal: Rgb = [0, 0, 0];
  const result: [Float64Array, number] = [solved, 0];
  return (diffuse, specular) => {
    for (let k = 0; k < 3; k += 1) metal[k] = Math.min(1, specular[k]);
    solveMetalRough(diffuse, metal, solved);
    const share = kind === 'reflectance' ? 1 : classicMetalShare(diffuse, specular, kind === 'painted');
    if (share < 1) {
      for (let k = 0; k < 3; k += 1) solved[k] = diffuse[k] + (solved[k] - diffuse[k]) * share;
      solved[3] *= share;
      for (let k = 0; k < 3; k += 1) metal[k] = DIELECTRIC + (metal[k] - DIELECTRIC) * share;
    }
    result[1] = share === 0 ? 0 : residualOf(diffuse, metal, solved);
    return result;
  };
}

/** The same for a single surface. */
export function solveSurface(
  diffuse: Readonly<Rgb>,
  specular: Readonly<Rgb>,
  kind: SpecularKind,
): { baseColor: Rgb; metalness: number; residual: number } {
  const [solved, residual] = createSolver(kind)(diffuse, specular);
  return { baseColor: [solved[0], solved[1], solved[2]], metalness: solved[3], residual };
}
