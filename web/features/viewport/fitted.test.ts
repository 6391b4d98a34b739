import { drawEnvironment, meanRadiance } from '@kinkajou/core/maps/environments';
import { describe, expect, it } from 'vitest';
import type { Lamp, LampName } from '@/ui/choices';
import { fittedStops } from './fitted.ts';

const lamp = (on: boolean, strength = 1): Lamp => ({ on, strength, angle: 0, softness: 0 });
const lamps = (...on: LampName[]) => ({
  key: lamp(on.includes('key')),
  fill: lamp(on.includes('fill')),
  rim: lamp(on.includes('rim')),
});
const meanOf = (key: Parameters<typeof drawEnvironment>[0]) => {
  const { width, height, data } = drawEnvironment(key, 256);
  return meanRadiance(width, height, 3, (index) => data[index]);
};

describe('exposure fitted to the light', () => {
  it('is none in the studio under its key light, and stays what it is by stops', () => {
    expect(fittedStops({ environment: meanOf('studio'), lamps: lamps('key') })).toBeCloseTo(0, 1);
    // Half the light is one stop more.
    const dim = fittedStops({ environment: 0.5, lamps: lamps() });
    expect(fittedStops({ environment: 0.25, lamps: lamps() })).toBeCloseTo(dim + 1, 2);
    // A lamp of 1.6 gives half of it: as much as an environment of 0.8 / pi.
    expect(fittedStops({ environment: 0, lamps: lamps('fill') })).toBeCloseTo(
      fittedStops({ environment: 0.8 / Math.PI, lamps: lamps() }),
      2,
    );
  });

  it('is more in the dark, less in the sun, within bounds, and none without light', () => {
    expect(fittedStops({ environment: meanOf('workshop'), lamps: lamps('key') })).toBeGreaterThan(0.5);
    expect(fittedStops({ environment: meanOf('overcast'), lamps: lamps('key') })).toBeLessThan(0.5);
    expect(fittedStops({ environment: 1e9, lamps: lamps() })).toBe(-8);
    expect(fittedStops({ environment: 1e-9, lamps: lamps() })).toBe(8);
    expect(fittedStops({ environment: 0, lamps: lamps() })).toBe(0);
  });
});

describe('the mean of a sky', () => {
  it('weighs texels by the sky that they cover', () => {
    // The upper half white, the lower black; and a row at the zenith, which covers little.
    expect(meanRadiance(8, 4, 3, (index) => (index < 8 * 2 * 3 ? 1 : 0))).toBeCloseTo(0.5, 9);
    expect(meanRadiance(8, 64, 3, (index) => (index < 8 * 3 ? 1 : 0))).toBeLessThan(1 / 64 / 4);
    // Green is what is seen most of; what is no number counts for nothing.
    expect(meanRadiance(4, 2, 4, (index) => (index % 4 === 1 ? 1 : 0))).toBeCloseTo(0.7152, 9);
    expect(meanRadiance(4, 2, 3, (index) => (index < 3 ? Number.NaN : 2))).toBeCloseTo(2, 9);
  });
});
