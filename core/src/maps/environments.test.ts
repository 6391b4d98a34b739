import { describe, expect, it } from 'vitest';
import type { Vec3 } from '../scene/document.ts';
import { drawEnvironment, type EnvironmentKey } from './environments.ts';

const WIDTH = 256;

/** Looks up a direction as three.js does: u = atan2(z, x) / 2 pi + 0.5, v from the zenith. */
function seen(key: EnvironmentKey, [x, y, z]: Vec3, samples = 1): number[] {
  const { data, width, height } = drawEnvironment(key, WIDTH, samples);
  const length = Math.hypot(x, y, z);
  const column = Math.min(width - 1, Math.floor((Math.atan2(z, x) / (2 * Math.PI) + 0.5) * width));
  const row = Math.min(height - 1, Math.floor((0.5 - Math.asin(y / length) / Math.PI) * height));
  return [...data.subarray((row * width + column) * 3, (row * width + column) * 3 + 3)];
}

describe('computed environments', () => {
  it('are twice as wide as high, and all light', () => {
    for (const key of ['studio', 'overcast', 'lowSun', 'workshop'] as const) {
      const { width, height, data } = drawEnvironment(key, 64);
      expect([width, height, data.length]).toEqual([64, 32, 64 * 32 * 3]);
      expect(data.every((value) => value > 0 && value < 500)).toBe(true);
    }
  });

  it('show lamps where they stand, before what is behind', () => {
    // The ceiling's lamp is five times white paper, a little warm: #f6 and #e6 by the sRGB curve.
    const [red, green, blue] = seen('studio', [0, 1, 0]);
    expect([red, green, blue].map((value) => value / 5)).toEqual([
      1,
      expect.closeTo(0.9216, 3),
      expect.closeTo(0.7913, 3),
    ]);
    // One at the left; straight ahead of it, not behind.
    expect(seen('studio', [-8.6, 3.6, 3])[0]).toBe(7);
    expect(seen('studio', [8.6, 3.6, -3])[0]).toBeLessThan(1);
    expect(seen('studio', [0, -1, 0]).map((value) => Number(value.toFixed(2)))).toEqual([0.2, 0.19, 0.17]);
    // A lamp that faces the middle: its edge is 3.5 m to the side of its middle, seen at right angles.
    const [x, z] = [2 / Math.hypot(2, 2.8, 9), -9 / Math.hypot(2, 2.8, 9)];
    const side = (away: number): Vec3 => [
      2 + (away * -z) / Math.hypot(x, z),
      2.8,
      -9 + (away * x) / Math.hypot(x, z),
    ];
    expect([seen('studio', side(3.2))[0] > 3, seen('studio', side(3.8))[0] > 3]).toEqual([true, false]);
    expect(seen('workshop', [3.2, 6.4, 0.6])[0]).toBe(42);
  });

  it('are as bright as skies are', () => {
    // The CIE overcast sky: the zenith is three times as bright as the horizon.
    const [zenith, low] = [seen('overcast', [0, 1, 0]), seen('overcast', [1, 0.05, 0])];
    expect(zenith[2] / low[2]).toBeCloseTo(3 / (1 + 2 * 0.05), 0);
    expect(zenith[2]).toBeCloseTo(2.4 * 0.96, 1);
    // The sun stands at 0.55, 0.2, 0.81 and is a few degrees wide.
    const { data, width, height } = drawEnvironment('lowSun', WIDTH);
    const brightest = data.reduce((most, value, i) => (value > data[most] ? i : most), 0) / 3;
    const [u, v] = [(Math.floor(brightest) % width) + 0.5, Math.floor(brightest / width) + 0.5];
    const [longitude, latitude] = [2 * Math.PI * (u / width - 0.5), Math.PI * (0.5 - v / height)];
    expect([longitude, latitude]).toEqual([
      expect.closeTo(Math.atan2(0.81, 0.55), 1),
      expect.closeTo(Math.asin(0.2), 1),
    ]);
    expect(seen('lowSun', [0.55, 0.2, 0.81])[0]).toBeGreaterThan(200);
    expect(seen('lowSun', [-0.55, 0.2, -0.81])[0]).toBeLessThan(1);
    expect(seen('lowSun', [-0.55, -0.5, -0.81])[0]).toBeLessThan(0.4);
  });

  it('are the mean of their samples', () => {
    const beam = (samples: number) => drawEnvironment('workshop', 64, samples).data;
    const [one, many] = [beam(1), beam(4)];
    const mean = (values: Float32Array) => values.reduce((sum, value) => sum + value, 0) / values.length;
    expect(mean(many) / mean(one)).toBeCloseTo(1, 1);
    expect(new Set(many).size).toBeGreaterThan(new Set(one).size);
  });
});
