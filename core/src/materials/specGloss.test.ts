import { describe, expect, it } from 'vitest';
import type { Rgb } from '../scene/material.ts';
import { fromSpecGloss, specGlossResidual, toSpecGloss } from './specGloss.ts';

const steps = [0, 0.2, 0.5, 0.8, 1];
const close = (found: readonly number[], expected: readonly number[], digits: number) =>
  expected.forEach((value, i) => expect(found[i]).toBeCloseTo(value, digits));

describe('metal/rough to spec/gloss', () => {
  it('follows the three formulas', () => {
    const { diffuse, specular, glossiness } = toSpecGloss({ baseColor: [0.8, 0.4, 0.1], metalness: 0.25, roughness: 0.3 });
    close(diffuse, [0.6, 0.3, 0.075], 10);
    close(specular, [0.04 * 0.75 + 0.2, 0.04 * 0.75 + 0.1, 0.04 * 0.75 + 0.025], 10);
    expect(glossiness).toBeCloseTo(0.7, 10);
  });
});

describe('spec/gloss to metal/rough', () => {
  it('knows a dielectric: specular 0.04 is metalness 0 and the diffuse is the base', () => {
    for (const r of steps)
      for (const g of steps) {
        const { baseColor, metalness, roughness } = fromSpecGloss({ diffuse: [r, g, 0.3], specular: [0.04, 0.04, 0.04], glossiness: 0.6 });
        expect(metalness).toBeCloseTo(0, 6);
        close(baseColor, [r, g, 0.3], 6);
        expect(roughness).toBeCloseTo(0.4, 10);
      }
  });

  it('knows a metal: no diffuse, the specular is the base', () => {
    for (const specular of [
      [1, 0.77, 0.34],
      [0.95, 0.93, 0.88],
      [0.56, 0.57, 0.58],
    ] as Rgb[]) {
      const { baseColor, metalness } = fromSpecGloss({ diffuse: [0, 0, 0], specular, glossiness: 1 });
      expect(metalness).toBeCloseTo(1, 6);
      close(baseColor, specular, 6);
    }
  });

  it('solves the quadratic of the appendix: a grey of diffuse 0.5 and specular 0.25', () => {
    // a = 0.04, b = 0.5 * 0.75 / 0.96 + 0.25 - 0.08 = 0.560625, c = 0.04 - 0.25.
    const metalness = (-0.560625 + Math.sqrt(0.560625 ** 2 + 4 * 0.04 * 0.21)) / 0.08;
    expect(fromSpecGloss({ diffuse: [0.5, 0.5, 0.5], specular: [0.25, 0.25, 0.25], glossiness: 0 }).metalness).toBeCloseTo(metalness, 8);
  });

  it('stays in 0 to 1 whatever comes', () => {
    for (const d of [...steps, 4])
      for (const s of [...steps, 0.01])
        for (const value of Object.values(fromSpecGloss({ diffuse: [d, 1, 0], specular: [s, s, 1], glossiness: 1 })).flat())
          expect(value >= 0 && value <= 1).toBe(true);
  });
});

describe('the residual', () => {
  it('is nothing for what both models can say', () => {
    expect(specGlossResidual({ diffuse: [0.5, 0.2, 0.1], specular: [0.04, 0.04, 0.04], glossiness: 0.5 })).toBeLessThan(1e-6);
    expect(specGlossResidual({ diffuse: [0, 0, 0], specular: [0.9, 0.6, 0.3], glossiness: 0.5 })).toBeLessThan(1e-6);
  });

  it('is large for what metal/rough cannot say: a blue sheen over red, or no reflection at all', () => {
    expect(specGlossResidual({ diffuse: [0.6, 0.05, 0.05], specular: [0.05, 0.1, 0.6], glossiness: 0.5 })).toBeGreaterThan(0.1);
    expect(specGlossResidual({ diffuse: [0.5, 0.5, 0.5], specular: [0, 0, 0], glossiness: 0.5 })).toBeCloseTo(0.04, 6);
  });
});
