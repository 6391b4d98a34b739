import { describe, expect, it } from 'vitest';
import { conductorReflectance, reflectanceInWords, STARTING_POINTS } from './measured.ts';

const point = (id: string) => STARTING_POINTS.find((one) => one.id === id) as (typeof STARTING_POINTS)[number];

describe('starting points', () => {
  it('reflect what the formula gives, worked out by hand', () => {
    // Gold, red: ((0.14 - 1)^2 + 3.697^2) / ((0.14 + 1)^2 + 3.697^2) = 14.4074 / 14.9674.
    expect(conductorReflectance(0.14, 3.697)).toBeCloseTo(14.4074 / 14.9674, 4);
    expect(point('gold').baseColor?.map((part) => Math.round(part * 100))).toEqual([96, 79, 41]);
    expect(point('copper').baseColor?.map((part) => Math.round(part * 100))).toEqual([94, 62, 54]);
    // A conductor without absorption is a dielectric: n = 1.5 gives 4%.
    expect(conductorReflectance(1.5, 0)).toBeCloseTo(0.04, 10);
  });

  it('are ordered as eyes know them: gold is yellow, copper redder, silver nearly white', () => {
    const [gold, silver, copper] = ['gold', 'silver', 'copper'].map((id) => point(id).baseColor as [number, number, number]);
    for (const [r, g, b] of [gold, copper]) expect(r > g && g > b).toBe(true);
    expect(copper[1]).toBeLessThan(gold[1]);
    expect(Math.min(...silver)).toBeGreaterThan(0.95);
  });

  it('keep dielectrics plausible: indices from 1.3 to 1.8, clear ones transmit', () => {
    for (const { kind, ior, metalness, transmission } of STARTING_POINTS.filter(({ kind }) => kind !== 'metal')) {
      expect(ior).toBeGreaterThan(1.3);
      expect(ior).toBeLessThan(1.8);
      expect([metalness, transmission]).toEqual([0, kind === 'glass' ? 1 : 0]);
    }
    expect(reflectanceInWords(point('crown'))).toBe('4.2%');
    expect(reflectanceInWords(point('water'))).toBe('2.0%');
  });
});
