import { describe, expect, it } from 'vitest';
import type { PixelBuffer } from '../images/pixelBuffer.ts';
import { decodeSrgb } from '../scene/transfer.ts';
import { detectMaps } from './detectMaps.ts';
import { judgeEncoding } from './judgeEncoding.ts';
import { judgePixels } from './judgePixels.ts';
import { constantOf, lookAtPixels } from './pixelFacts.ts';

const SIDE = 64;
type Paint = (x: number, y: number) => number[];

function image(paint: Paint, kind: 'bytes' | 'floats' = 'bytes'): PixelBuffer {
  const components = paint(0, 0).length;
  const values = Array.from({ length: SIDE * SIDE }, (_, i) => paint(i % SIDE, Math.floor(i / SIDE))).flat();
  const data =
    kind === 'floats'
      ? Float32Array.from(values)
      : Uint8Array.from(values, (value) => Math.round(value * 255));
  return { width: SIDE, height: SIDE, components, data };
}

/** A wavy surface as Y+ normals: h = 2 sin(x/5) + 2 cos(y/7) + sin((x+y)/4), y downwards. */
const bumps: Paint = (x, y) => {
  const dx = 0.4 * Math.cos(x / 5) + 0.25 * Math.cos((x + y) / 4);
  const dyUp = (2 / 7) * Math.sin(y / 7) - 0.25 * Math.cos((x + y) / 4);
  const length = Math.hypot(dx, dyUp, 1);
  return [0.5 - dx / length / 2, 0.5 - dyUp / length / 2, 0.5 + 0.5 / length];
};
const paintwork: Paint = (x, y) => [0.3 + (0.4 * ((x * 7 + y * 3) % 64)) / 64, 0.2 + 0.2 * (y / 64), 0.12];
const greys: Paint = (x, y) => [((x * 5 + y * 11) % 97) / 97];
const mask: Paint = (x, y) => [(x >> 3) % 2 === (y >> 3) % 2 ? 1 : 0];

const detect = (path: string, paint: Paint, kind?: 'bytes' | 'floats') => {
  const buffer = image(paint, kind);
  const info = {
    format: 'png' as const,
    width: SIDE,
    height: SIDE,
    bitDepth: 8 as const,
    floating: kind === 'floats',
    components: buffer.components,
  };
  return detectMaps([{ path, info, facts: lookAtPixels(buffer) }])[0];
};

describe('what pixels say', () => {
  it('tells the kinds apart', () => {
    const kind = (paint: Paint) => judgePixels(lookAtPixels(image(paint))).kind;
    expect(kind(bumps)).toBe('normal');
    expect(kind(paintwork)).toBe('colour');
    expect(kind(greys)).toBe('grey');
    expect(kind(mask)).toBe('mask');
    expect(kind(() => [0.5, 0.5, 0.5])).toBe('constant');
    expect(kind((x) => (x < 4 ? [1, 0.6, 0.2] : [0, 0, 0]))).toBe('emission');
  });

  it('counts ranges and percentiles over known pixels', () => {
    const facts = lookAtPixels(image((x) => [x / 63, 1 - x / 63, 0.25, 0.5]));
    expect(facts.min.map((value) => Math.round(value * 255))).toEqual([0, 0, 64, 128]);
    expect(facts.max.map((value) => Math.round(value * 255))).toEqual([255, 255, 64, 128]);
    expect(constantOf(facts, 2)).toBeCloseTo(64 / 255, 6);
    expect(constantOf(facts, 0)).toBeNull();
    // Brightness is 0.2126 x + 0.7152 (1 - x) + 0.0722 / 4, so the median is at x = 1/2.
    expect(facts.percentiles[3]).toBeCloseTo(0.4639 + 0.0181, 1);
    expect(facts.histogram.reduce((sum, share) => sum + share, 0)).toBeCloseTo(1, 3);
  });
});

describe('images by name and pixels', () => {
  it('is surer where both agree and doubts where they contradict', () => {
    expect(detect('hull_normal.png', bumps)).toMatchObject({
      readings: [{ channel: 'normal', normalY: 'Y+' }],
      contradicted: false,
      space: 'data',
    });
    const wrong = detect('hull_roughness.png', bumps);
    expect(wrong).toMatchObject({ contradicted: true });
    expect(wrong.confidence).toBeLessThan(0.5);
    expect(wrong.evidence.join()).toMatch(/looks like a normal map/);
    expect(detect('hull_normal.png', greys)).toMatchObject({ contradicted: true });
    expect(detect('rusty_metal.png', greys).confidence).toBe(0.8);
  });

  it('finds nameless maps by their pixels, with less trust', () => {
    expect(detect('IMG_0231.jpg', bumps)).toMatchObject({ readings: [{ channel: 'normal' }] });
    expect(detect('IMG_0232.jpg', paintwork)).toMatchObject({
      readings: [{ channel: 'baseColor' }],
      space: 'srgb_rec709_scene',
    });
    expect(detect('IMG_0233.jpg', greys).readings).toEqual([]);
    for (const paint of [bumps, paintwork]) expect(detect('IMG_1.jpg', paint).confidence).toBeLessThan(0.8);
  });

  it('is constant where every pixel is the same, alpha included', () => {
    expect(detect('hull_roughness.png', () => [0.5, 0.5, 0.5]).constant).toBe(true);
    expect(detect('hull_roughness.png', greys).constant).toBe(false);
    expect(detect('hull_opacity.png', (x) => [1, 1, 1, x / 63]).constant).toBe(false);
    expect(detect('hull_basecolor.png', () => [0.5, 0.5, 0.5, 1]).constant).toBe(true);
    expect(detectMaps([{ path: 'hull_roughness.png', info: null, facts: null }])[0].constant).toBe(false);
  });

  it('takes slots that feed several components as a packed image', () => {
    const slots = [
      { channel: 'roughness' as const, component: 'g' as const },
      { channel: 'metalness' as const, component: 'b' as const },
    ];
    expect(detectMaps([{ path: 'abc.png', info: null, facts: null, slots }])[0]).toMatchObject({
      packed: true,
      readings: [{ component: 'g' }, { component: 'b' }],
      space: 'data',
    });
  });

  it('reads the colour space from the name, the depth and the numbers', () => {
    const linear: Paint = (x, y) => paintwork(x, y).map((value) => decodeSrgb(Math.round(value * 255) / 255));
    expect(detect('hull_basecolor_acescg.exr', linear, 'floats').space).toBe('lin_ap1_scene');
    expect(detect('hull_basecolor.exr', linear, 'floats').space).toBe('lin_rec709_scene');
    const encoded: Paint = (x, y) => paintwork(x, y).map((value) => Math.round(value * 255) / 255);
    expect(detect('hull_basecolor.exr', encoded, 'floats').space).toBe('srgb_rec709_scene');
  });
});

describe('encoding of float colour', () => {
  const codes: Paint = (x, y) => paintwork(x, y).map((value) => Math.round(value * 255) / 255);
  const decoded =
    (times: number): Paint =>
    (x, y) =>
      codes(x, y).map((value) =>
        Array.from({ length: times }).reduce((now: number) => decodeSrgb(now), value),
      );
  const facts = (times: number) => lookAtPixels(image(decoded(times), 'floats'));

  it('is told by whole 8-bit codes', () => {
    expect(judgeEncoding(facts(0))).toMatchObject({ state: 'encoded', confidence: 0.9 });
    expect(judgeEncoding(facts(1))).toMatchObject({ state: 'linear', confidence: 0.9 });
    expect(judgeEncoding(facts(2))).toMatchObject({ state: 'darkened', confidence: 0.9 });
  });

  it('is told by an 8-bit sibling, first of all', () => {
    const sibling = lookAtPixels(image(codes));
    for (const [times, state] of [
      [0, 'encoded'],
      [1, 'linear'],
      [2, 'darkened'],
    ] as const) {
      const shifted: Paint = (x, y) => decoded(times)(x, y).map((value) => value * 1.0007 + 1e-4);
      expect(judgeEncoding(lookAtPixels(image(shifted, 'floats')), { sibling })).toMatchObject({
        state,
        confidence: 0.95,
      });
    }
  });

  it('is only guessed by the band of albedo', () => {
    const pale = judgeEncoding(
      lookAtPixels(image((x, y) => [0.45 + 0.4 * Math.sin(x * 0.37 + y * 0.11) ** 2], 'floats')),
    );
    expect(pale).toMatchObject({ state: 'encoded', confidence: 0.6 });
  });
});

describe('what is called a mask', () => {
  const spots: Paint = (x, y) => [((x * 5) % 64) / 64, 0.1, ((y * 3) % 64) / 64];

  it('is a cut-out by two values, and by an alpha over grey; else it may mask anything', () => {
    const sure = (path: string, paint: Paint) => {
      const beside = { path: 'hull_normal.png', info: null, facts: null };
      return (
        detectMaps([{ path, info: null, facts: lookAtPixels(image(paint)) }, beside])[0].confidence >= 0.8
      );
    };
    expect(sure('hull_mask.png', mask)).toBe(true);
    expect(sure('hull_mask.png', greys)).toBe(false);
    expect(
      sure('hull_mask.png', (x, y) => [...greys(x, y), ...greys(x, y), ...greys(x, y), ...mask(x, y)]),
    ).toBe(true);
    expect(sure('hull_mask.png', (x, y) => [...spots(x, y), ...mask(x, y)])).toBe(false);
    const half: Paint = (x, y) => (x < SIDE / 2 ? [...spots(x, y)] : [0.3, 0.3, 0.3]);
    expect(sure('hull_mask.png', (x, y) => [...half(x, y), ...mask(x, y)])).toBe(false);
    // Other words say what is meant.
    expect(sure('hull_opacity.png', greys)).toBe(true);
    expect(sure('hull_opacity.png', (x, y) => [...spots(x, y), ...mask(x, y)])).toBe(true);
  });
});

it('a colour without much of a hue is what its name says', () => {
  const dull: Paint = (x, y) => [1, 0.95, 0.93].map((share) => share * (0.5 + ((x * 7 + y) % 40) / 100));
  expect(judgePixels(lookAtPixels(image(dull))).kind).toBe('unclear');
  expect(detect('base.png', dull).confidence).toBeGreaterThanOrEqual(0.8);
  expect(detect('base.png', greys).confidence).toBeLessThan(0.8);
});

it('normals on black have their direction', () => {
  const onBlack: Paint = (x, y) => (x < SIDE / 2 ? bumps(x, y) : [0, 0, 0]);
  const found = lookAtPixels(image(onBlack));
  expect(judgePixels(found)).toMatchObject({ kind: 'normal' });
  expect(found.direction?.direction).toBe('Y+');
});
