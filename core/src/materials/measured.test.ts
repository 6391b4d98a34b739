import { describe, expect, it } from 'vitest';
import {
  conductorReflectance,
  MEASURED_METALS,
  metalFrom,
  reflectanceInWords,
  STARTING_POINTS,
} from './measured.ts';

const point = (id: string) =>
  STARTING_POINTS.find((one) => one.id === id) as (typeof STARTING_POINTS)[number];

describe('starting points', () => {
  it('reflect what the formula gives, worked out by hand', () => {
    // Gold, red: ((0.14 - 1)^2 + 3.697^2) / ((0.14 + 1)^2 + 3.697^2) = 14.4074 / 14.9674.
    expect(conductorReflectance(0.14, 3.697)).toBeCloseTo(14.4074 / 14.9674, 4);
    expect(point('gold').baseColor?.map((component) => Math.round(component * 100))).toEqual([96, 79, 41]);
    expect(point('copper').baseColor?.map((component) => Math.round(component * 100))).toEqual([94, 62, 54]);
    // A conductor without absorption is a dielectric: n = 1.5 gives 4%.
    expect(conductorReflectance(1.5, 0)).toBeCloseTo(0.04, 10);
  });

  it('are ordered as eyes know them: gold is yellow, copper redder, silver nearly white', () => {
    const [gold, silver, copper] = ['gold', 'silver', 'copper'].map(
      (id) => point(id).baseColor as [number, number, number],
    );
    for (const [r, g, b] of [gold, copper]) expect(r > g && g > b).toBe(true);
    expect(copper[1]).toBeLessThan(gold[1]);
    expect(Math.min(...silver)).toBeGreaterThan(0.95);
  });

  it('keep dielectrics plausible: indices from 1.3 to 1.8, clear ones transmit', () => {
    for (const { kind, ior, metalness, transmission } of STARTING_POINTS.filter(
      ({ kind }) => kind !== 'metal',
    )) {
      expect(ior).toBeGreaterThan(1.3);
      expect(ior).toBeLessThan(1.8);
      expect([metalness, transmission]).toEqual([0, kind === 'glass' ? 1 : 0]);
    }
    expect(reflectanceInWords(point('crown'))).toBe('4.2%');
    expect(reflectanceInWords(point('water'))).toBe('2.0%');
  });

  /**
   * Reflectances as S. Lagarde's memo on Fresnel equations (2013) lists them, from other measurements and a
   * colorimetric integral.
   */
  it.each<[string, [number, number, number], number]>([
    ['silver', [0.972, 0.96, 0.915], 0.07],
    ['gold', [1, 0.766, 0.336], 0.08],
    ['copper', [0.955, 0.638, 0.538], 0.03],
    ['aluminium', [0.913, 0.922, 0.924], 0.01],
    ['nickel', [0.66, 0.609, 0.526], 0.02],
    ['platinum', [0.673, 0.637, 0.585], 0.01],
    ['palladium', [0.733, 0.697, 0.652], 0.02],
    // Films of these differ by how they were made.
    ['chromium', [0.55, 0.556, 0.554], 0.11],
    ['titanium', [0.542, 0.497, 0.449], 0.15],
    ['cobalt', [0.662, 0.655, 0.634], 0.14],
  ])('%s reflects about what is published elsewhere', (id, published, apart) => {
    point(id).baseColor?.forEach((component, k) =>
      expect(Math.abs(component - published[k])).toBeLessThan(apart),
    );
  });

  /**
   * Parameters of the Lorentz-Drude model: plasma energy, then strength, energy and width of each oscillator,
   * in electronvolts.
   */
  it.each<[string, number, [number, number, number][]]>([
    [
      'aluminium',
      14.98,
      [
        [0.523, 0, 0.047],
        [0.227, 0.162, 0.333],
        [0.05, 1.544, 0.312],
        [0.166, 1.808, 1.351],
        [0.03, 3.473, 3.382],
      ],
    ],
    [
      'nickel',
      15.92,
      [
        [0.096, 0, 0.048],
        [0.1, 0.174, 4.511],
        [0.135, 0.582, 1.334],
        [0.106, 1.597, 2.178],
        [0.729, 6.089, 6.292],
      ],
    ],
    [
      'tungsten',
      13.22,
      [
        [0.206, 0, 0.064],
        [0.054, 1.004, 0.53],
        [0.166, 1.917, 1.281],
        [0.706, 3.58, 3.332],
        [2.59, 7.498, 5.836],
      ],
    ],
  ])('%s has the index that its published model gives', (id, plasma, oscillators) => {
    const index = MEASURED_METALS[id].index;
    [650, 550, 450].forEach((wavelength, offset) => {
      const energy = 1239.841984 / wavelength;
      let [real, imaginary] = [1, 0];
      for (const [strength, resonance, width] of oscillators) {
        // strength plasma^2 / (resonance^2 - energy^2 - i energy width)
        const [a, b] = [resonance ** 2 - energy ** 2, -energy * width];
        real += (strength * plasma ** 2 * a) / (a * a + b * b);
        imaginary -= (strength * plasma ** 2 * b) / (a * a + b * b);
      }
      const modulus = Math.hypot(real, imaginary);
      expect(index[offset * 2]).toBeCloseTo(Math.sqrt((modulus + real) / 2), 2);
      expect(index[offset * 2 + 1]).toBeCloseTo(Math.sqrt((modulus - real) / 2), 2);
    });
  });

  it("take constants of one's own", () => {
    expect(Object.keys(MEASURED_METALS).length).toBeGreaterThanOrEqual(12);
    const own = metalFrom('own', 'Own', [1.5, 0, 1, 1, 0.14, 3.697]);
    // n = 1 leaves k^2 / (4 + k^2).
    expect(own.baseColor?.map((component) => component.toFixed(4))).toEqual([
      '0.0400',
      '0.2000',
      (14.4074 / 14.9674).toFixed(4),
    ]);
    expect(own).toMatchObject({ metalness: 1, kind: 'metal' });
  });
});
