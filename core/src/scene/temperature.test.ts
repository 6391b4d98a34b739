import { describe, expect, it } from 'vitest';
import { lightOfTemperature } from './temperature.ts';

/** Linear Rec.709 to x and y (IEC 61966-2-1). */
function chromaticity([r, g, b]: readonly number[]): [number, number] {
  const [x, y, z] = [
    0.4124564 * r + 0.3575761 * g + 0.1804375 * b,
    0.2126729 * r + 0.7151522 * g + 0.072175 * b,
    0.0193339 * r + 0.119192 * g + 0.9503041 * b,
  ];
  return [x / (x + y + z), y / (x + y + z)];
}

describe('the light of what glows', () => {
  // Planck's law through the observer of 1931; the second is the standard's lamp (illuminant A).
  it.each([
    [2222, 0.5022, 0.4151],
    [2856, 0.4476, 0.4074],
    [4000, 0.3805, 0.3768],
    [6500, 0.3135, 0.3237],
    [10000, 0.2807, 0.2884],
  ])('of %i K', (kelvin, x, y) => {
    const light = lightOfTemperature(kelvin);
    const found = chromaticity(light);
    expect(Math.abs(found[0] - x)).toBeLessThan(0.002);
    expect(Math.abs(found[1] - y)).toBeLessThan(0.002);
    expect(0.2126729 * light[0] + 0.7151522 * light[1] + 0.072175 * light[2]).toBeCloseTo(1, 5);
  });

  it('has no blue below zero, and ends where the fit ends', () => {
    expect(lightOfTemperature(1700)[2]).toBe(0);
    expect(lightOfTemperature(100)).toEqual(lightOfTemperature(1667));
    expect(lightOfTemperature(1e6)).toEqual(lightOfTemperature(25_000));
  });
});
