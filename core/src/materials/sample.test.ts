import { describe, expect, it } from 'vitest';
import { createMapUse } from '../scene/material.ts';
import { heightOf, withHeight } from './height.ts';
import { pixelOf, sampleChannel, singlePixel } from './sample.ts';

const size = { width: 100, height: 50 };

describe('the pixel behind a place', () => {
  const use = (overrides = {}) => createMapUse('a.png', 'baseColor', overrides);

  it('counts v upwards and pixels from the top left', () => {
    expect(pixelOf([0.005, 0.99], use(), size)).toEqual({ tile: null, x: 0, y: 0 });
    expect(pixelOf([0.995, 0.01], use(), size)).toEqual({ tile: null, x: 99, y: 49 });
  });

  it('repeats, mirrors and clamps', () => {
    expect(pixelOf([1.255, 0.5], use(), size).x).toBe(25);
    expect(pixelOf([1.255, 0.5], use({ wrap: ['mirror', 'repeat'] }), size).x).toBe(74);
    expect(pixelOf([-0.255, 0.5], use({ wrap: ['mirror', 'repeat'] }), size).x).toBe(25);
    expect(pixelOf([1.255, -3], use({ wrap: ['clamp', 'clamp'] }), size)).toMatchObject({ x: 99, y: 49 });
  });

  it('scales, turns and moves', () => {
    expect(
      pixelOf([0.25, 0.5], use({ transform: { offset: [0.1, 0], scale: [2, 1], rotation: 0 } }), size).x,
    ).toBe(60);
    // A quarter turn takes (0.25, 0) to (0, 0.25).
    expect(
      pixelOf(
        [0.255, 0.001],
        use({ transform: { offset: [0, 0], scale: [1, 1], rotation: Math.PI / 2 } }),
        size,
      ).y,
    ).toBe(37);
  });

  it('scales and mirrors upwards as it does to the right', () => {
    expect(
      pixelOf([0, 0.255], use({ transform: { offset: [0, 0.1], scale: [1, 2], rotation: 0 } }), size).y,
    ).toBe(19);
    expect(pixelOf([0, 1.25], use({ wrap: ['repeat', 'mirror'] }), size).y).toBe(12);
    expect(pixelOf([2.255, 0], use({ wrap: ['mirror', 'repeat'] }), size).x).toBe(25);
  });

  it('knows the tile', () => {
    expect(pixelOf([1.5, 2.5], use(), size, true)).toEqual({ tile: 1022, x: 50, y: 25 });
  });
});

describe('a channel at a pixel', () => {
  it('is value times map, colours in light', () => {
    const map = createMapUse('a.png', 'baseColor');
    const [r, , b] = sampleChannel('baseColor', {
      value: [0.5, 1, 1],
      map,
      pixels: singlePixel([1, 0.5, 0.5]),
    }) as number[];
    expect(r).toBeCloseTo(0.5, 9);
    // sRGB 0.5 by IEC 61966-2-1.
    expect(b).toBeCloseTo(((0.5 + 0.055) / 1.055) ** 2.4, 9);
  });

  it('takes components, inversion, gain and offset', () => {
    const map = createMapUse('a.png', 'roughness', { component: 'g', invert: true, gain: 0.5, offset: 0.25 });
    expect(sampleChannel('roughness', { value: 2, map, pixels: singlePixel([0, 0.2, 0]) })).toBeCloseTo(
      2 * (0.8 * 0.5 + 0.25),
      6,
    );
    expect(sampleChannel('metalness', { value: 0.7, map: null, pixels: null })).toBeCloseTo(0.7, 9);
  });
});

describe('height', () => {
  it('keeps amount and mid level through the use', () => {
    const map = createMapUse('h.png', 'height');
    const { value, map: use } = withHeight(map, { amount: 0.03, mid: 0.5 });
    expect(use).toMatchObject({ gain: 1, offset: -0.5 });
    expect(heightOf(value, use ?? map)).toEqual({ amount: 0.03, mid: 0.5 });
    // USD: scale 0.2 and bias -0.1 stand for an amount of 0.2 around the middle.
    expect(heightOf(1, { ...map, gain: 0.2, offset: -0.1 })).toEqual({ amount: 0.2, mid: 0.5 });
  });
});
