import { describe, expect, it } from 'vitest';
import { createNode, type Track } from './document.ts';
import { evaluateTrack, sampleTrack, straightSteps, toQuaternions, trackWidth } from './tracks.ts';

const track = (parts: Partial<Track>): Track => ({
  node: 0,
  path: 'translation',
  times: Float64Array.of(1, 3),
  values: Float64Array.of(0, 0, 0, 4, 8, -2),
  interpolation: 'linear',
  ...parts,
});

describe('a track at a moment', () => {
  it('is held before its first and after its last key', () => {
    expect(trackWidth(track({}))).toBe(3);
    expect(evaluateTrack(track({}), 0)).toEqual([0, 0, 0]);
    expect(evaluateTrack(track({}), 9)).toEqual([4, 8, -2]);
  });

  it('runs straight, or stands until the next key', () => {
    expect(evaluateTrack(track({}), 1.5)).toEqual([1, 2, -0.5]);
    expect(evaluateTrack(track({ interpolation: 'step' }), 2.9)).toEqual([0, 0, 0]);
  });

  it('follows the cubic of glTF: tangents are per second', () => {
    // One number per key: in-tangent, value, out-tangent. p(t) = t^3 over 0 to 2 has the values 0, 8 and
    // slopes 0, 12.
    const cube = track({
      path: 'weights',
      times: Float64Array.of(0, 2),
      values: Float64Array.of(0, 0, 0, 12, 8, 0),
      interpolation: 'cubic',
    });
    for (const t of [0.25, 0.5, 1, 1.7]) expect(evaluateTrack(cube, t)[0]).toBeCloseTo(t ** 3, 12);
  });

  it('is sampled so often a second, and no more often than tells anything', () => {
    const samples = (parts: Partial<Track>) => sampleTrack(track(parts), 3, 30).times;
    const turn = { path: 'rotation', values: Float64Array.of(0, 0, 0, 0, 90, 30) } as const;
    // Two seconds at thirty; an hour at a quarter of a degree each.
    expect(samples(turn)).toHaveLength(61);
    expect(samples({ ...turn, times: Float64Array.of(0, 3600) })).toHaveLength(361);
    expect(samples({ ...turn, times: Float64Array.of(0, 3600) })[1]).toBe(10);
    // From 0 to 8 without tangents the second derivative is 48 at most: 0.00005 x 8 x n x n is more from n = 347.
    const values = new Float64Array(18);
    values[12] = 8;
    const curve = { ...turn, values, interpolation: 'cubic' } as const;
    expect(samples({ ...curve, times: Float64Array.of(0, 3600) })).toHaveLength(348);
    expect(samples({ ...curve, times: Float64Array.of(0, 1) })).toHaveLength(31);
    // From nothing to a quarter about Z a part changes by 0.7071; a quarter of a degree changes it by half of that in radians.
    const quarter = Float64Array.of(0, 0, 0, 1, 0, 0, Math.SQRT1_2, Math.SQRT1_2);
    const turning = track({ path: 'quaternion', times: Float64Array.of(0, 3600), values: quarter });
    expect(sampleTrack(turning, 4, 30).times).toHaveLength(Math.ceil(Math.SQRT1_2 * (1440 / Math.PI)) + 1);
    // Straight ways and steps are told by their keys.
    expect(samples({})).toHaveLength(2);
    expect(samples({ ...turn, interpolation: 'step' })).toHaveLength(2);
  });

  it('turns along the short arc', () => {
    const half = Math.SQRT1_2;
    // From nothing to a quarter about Z, whose second key is written with the opposite sign.
    const turn = track({
      path: 'quaternion',
      times: Float64Array.of(0, 1),
      values: Float64Array.of(0, 0, 0, 1, 0, 0, -half, -half),
    });
    const found = evaluateTrack(turn, 0.5);
    const expected = [0, 0, Math.sin(Math.PI / 8), Math.cos(Math.PI / 8)];
    const sign = Math.sign(found[3]);
    found.forEach((component, k) => expect(component * sign).toBeCloseTo(expected[k], 12));
  });
});

describe('sampling', () => {
  it('keeps every key and adds evenly between', () => {
    const dense = sampleTrack(track({ path: 'rotation', times: Float64Array.of(0, 1) }), 3, 4);
    expect(Array.from(dense.times)).toEqual([0, 0.25, 0.5, 0.75, 1]);
    expect(Array.from(dense.values.subarray(6, 9))).toEqual([2, 4, -1]);
  });

  it('follows curves that are quicker than it', () => {
    // In a quarter of a second from 0 to 1, leaving and arriving at 12 a second.
    const values = Float64Array.from([0, 0, 0, 0, 0, 0, 12, 0, 0, 12, 0, 0, 1, 0, 0, 0, 0, 0]);
    const quick = track({ times: Float64Array.of(0, 0.25), values, interpolation: 'cubic' });
    const sampled = sampleTrack(quick, 3, 24);
    for (const t of [0.1, 0.37, 0.62, 0.81]) {
      // Hermite, with slopes of 3 over the span.
      const slopes = 3 * (t ** 3 - 2 * t ** 2 + t) + 3 * (t ** 3 - t ** 2);
      const exact = slopes + 3 * t ** 2 - 2 * t ** 3;
      expect(Math.abs(evaluateTrack(sampled, t * 0.25)[0] - exact)).toBeLessThan(5e-4);
    }
    expect(sampled.times.length).toBeGreaterThan(7);
    expect(sampled.times.length).toBeLessThan(70);
  });

  it('makes whole rotations of angles, pre-rotation first', () => {
    const node = createNode('boom', 'group', -1);
    node.transform.preRotation = [90, 0, 0];
    const angles = track({
      path: 'rotation',
      times: Float64Array.of(0, 1),
      values: Float64Array.of(0, 0, 0, 0, 0, 90),
      interpolation: 'step',
    });
    const { values, path } = toQuaternions(angles, node);
    expect(path).toBe('quaternion');
    const h = Math.SQRT1_2;
    // A quarter about X; then that times a quarter about Z: (h, 0, 0, h) * (0, 0, h, h) = (1/2, -1/2, 1/2,
    // 1/2).
    [h, 0, 0, h, 0.5, -0.5, 0.5, 0.5].forEach((component, i) => expect(values[i]).toBeCloseTo(component, 9));
  });
});

describe('steps as straight spans', () => {
  it('hold each value until shortly before the next key', () => {
    const steps = track({
      times: Float64Array.of(0, 1, 1.25),
      values: Float64Array.of(0, 0, 0, 4, 8, -2, 1, 1, 1),
      interpolation: 'step',
    });
    const straight = straightSteps(steps, 0.25);
    expect(straight.interpolation).toBe('linear');
    // The second value has no time to be held: its span is no longer than the gap.
    expect([...straight.times]).toEqual([0, 0.75, 1, 1.25]);
    expect([...straight.values]).toEqual([0, 0, 0, 0, 0, 0, 4, 8, -2, 1, 1, 1]);
    expect(straightSteps(track({}), 0.25)).toEqual(track({}));
  });
});
