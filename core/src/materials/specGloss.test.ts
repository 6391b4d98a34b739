import { describe, expect, it } from 'vitest';
import type { Rgb } from '../scene/material.ts';
import { fromSpecGloss, specGlossResidual, toSpecGloss } from './specGloss.ts';

describe('metal/rough and spec/gloss', () => {
  it('follow the formulas: half a metal reflects half of the base colour and half of 4 %', () => {
    const { diffuse, specular, glossiness } = toSpecGloss({
      baseColor: [0.8, 0.4, 0.2],
      metalness: 0.5,
      roughness: 0.3,
    });
    [0.4, 0.2, 0.1].forEach((component, k) => expect(diffuse[k]).toBeCloseTo(component, 12));
    [0.42, 0.22, 0.12].forEach((component, k) => expect(specular[k]).toBeCloseTo(component, 12));
    expect(glossiness).toBeCloseTo(0.7, 12);
  });

  it.each<[string, Rgb, Rgb, number, Rgb]>([
    ['gold', [0, 0, 0], [0.963, 0.787, 0.408], 1, [0.963, 0.787, 0.408]],
    [
      'a dielectric: diffuse over what specular lets through',
      [0.5, 0.25, 0.1],
      [0.04, 0.04, 0.04],
      0,
      [0.5, 0.25, 0.1],
    ],
    ['black paint, whose highlight is that of any dielectric', [0, 0, 0], [0.04, 0.04, 0.04], 0, [0, 0, 0]],
  ])('give back %s', (_, diffuse, specular, metalness, baseColor) => {
    const back = fromSpecGloss({ diffuse, specular, glossiness: 0.25 });
    expect(back.metalness).toBeCloseTo(metalness, 3);
    baseColor.forEach((component, k) => expect(back.baseColor[k]).toBeCloseTo(component, 3));
    expect(back.roughness).toBe(0.75);
  });

  it('solve the quadratic of the appendix where a surface is between the two', () => {
    // Grey, so brightness is the number itself: diffuse 0.3, specular 0.2, 1 - strongest 0.8.
    const [a, b, c] = [0.04, (0.3 * 0.8) / 0.96 + 0.2 - 0.08, 0.04 - 0.2];
    const metalness = (-b + Math.sqrt(b * b - 4 * a * c)) / (2 * a);
    const back = fromSpecGloss({ diffuse: [0.3, 0.3, 0.3], specular: [0.2, 0.2, 0.2], glossiness: 0 });
    expect(back.metalness).toBeCloseTo(metalness, 9);
    // Mixed by metalness squared of what diffuse and what specular say.
    const byDiffuse = (0.3 * 0.8) / (0.96 * (1 - metalness));
    const bySpecular = (0.2 - 0.04 * (1 - metalness)) / metalness;
    const share = metalness ** 2;
    expect(back.baseColor[0]).toBeCloseTo(Math.min(1, byDiffuse + (bySpecular - byDiffuse) * share), 9);
  });

  it('take what reflects just as dielectrics do for none, however dark it is', () => {
    // The other root for a diffuse of 0.0086 is 1 - 0.0086 / 0.04 = 0.785.
    for (const level of [0, 0.0086, 0.039, 0.5]) {
      const { baseColor, metalness } = fromSpecGloss({
        diffuse: [level, level, level],
        specular: [0.04, 0.04, 0.04],
        glossiness: 0.5,
      });
      expect(metalness, `${level}`).toBe(0);
      for (const component of baseColor) expect(component).toBeCloseTo(level, 12);
    }
  });

  it('take what reflects less than any dielectric for no metal', () => {
    expect(
      fromSpecGloss({ diffuse: [0.2, 0.2, 0.2], specular: [0.01, 0.01, 0.01], glossiness: 1 }).metalness,
    ).toBe(0);
  });

  it('have no residual for what either can say, and one for what it cannot', () => {
    expect(specGlossResidual({ diffuse: [0, 0, 0], specular: [0.9, 0.6, 0.3], glossiness: 1 })).toBeLessThan(
      1e-6,
    );
    expect(
      specGlossResidual({ diffuse: [0.5, 0.2, 0.1], specular: [0.04, 0.04, 0.04], glossiness: 1 }),
    ).toBeLessThan(1e-6);
    // A blue reflection over red: metal/rough has one colour for both.
    expect(
      specGlossResidual({ diffuse: [0.6, 0.02, 0.02], specular: [0.05, 0.05, 0.7], glossiness: 1 }),
    ).toBeGreaterThan(0.1);
  });
});
