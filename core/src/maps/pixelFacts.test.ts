import { describe, expect, it } from 'vitest';
import { constantOf, HISTOGRAM_BINS, lookAtPixels, MANY_COLOURS, type PixelFacts } from './pixelFacts.ts';

/** Bins that hold something, by their number. */
const held = (bins: readonly number[] | undefined) =>
  Object.fromEntries([...(bins ?? []).entries()].filter(([, share]) => share > 0));

describe('four pixels, counted by hand', () => {
  // White, clear black, half-clear red, and a normal that looks straight up.
  const facts = lookAtPixels({
    width: 4,
    height: 1,
    components: 4,
    data: Uint8Array.of(255, 255, 255, 255, 0, 0, 0, 0, 255, 0, 0, 128, 128, 128, 255, 255),
  });

  it('are as large as they are', () => {
    expect(facts).toMatchObject({ width: 4, height: 1, components: 4, floating: false, codes: null });
  });

  it('have their least, greatest and mean', () => {
    expect(facts.min).toEqual([0, 0, 0, 0]);
    expect(facts.max).toEqual([1, 1, 1, 1]);
    [638, 383, 510, 638].forEach((sum, k) => expect(facts.mean[k]).toBeCloseTo(sum / 4 / 255, 6));
  });

  it('lie at the ends of each component', () => {
    expect(facts.ends).toEqual([0.75, 0.75, 1, 0.75]);
  });

  it('are grey twice, and colourful by the largest difference', () => {
    expect(facts.grey).toBe(0.5);
    // 0 + 1 + 127 / 255, the black one showing no hue.
    expect(facts.saturation).toBeCloseTo((1 + 127 / 255) / 4, 5);
  });

  it('are vectors once, and in the circle once', () => {
    expect([facts.unit, facts.disc]).toEqual([0.25, 0.25]);
    expect(facts.length).toBeCloseTo((3 * Math.sqrt(3) + Math.sqrt(2 * (1 / 255) ** 2 + 1)) / 4, 5);
  });

  it('are dark once and bright twice, each in its bin of brightness', () => {
    expect([facts.dark, facts.bright, facts.under, facts.over]).toEqual([0.25, 0.5, 0, 0]);
    const up = (0.9278 * 128) / 255 + 0.0722;
    expect(held(facts.histogram)).toEqual({
      0: 0.25,
      13: 0.25,
      [Math.floor(up * HISTOGRAM_BINS)]: 0.25,
      63: 0.25,
    });
    [0, 0, 0.2126, up, 1, 1, 1].forEach((expected, i) =>
      expect(facts.percentiles[i]).toBeCloseTo(expected, 5),
    );
  });

  it('differ from their right neighbours, and are four colours', () => {
    // The last one has none and counts as equal.
    expect([facts.flat, facts.colours]).toEqual([0.25, 4]);
  });

  it('are half there, once not, and once between', () => {
    expect(facts.alpha).toMatchObject({ full: 0.5, clear: 0.25, between: 0.25 });
    expect(held(facts.alpha?.bins)).toEqual({ 0: 0.25, 32: 0.25, 63: 0.5 });
  });
});

describe('what is near a bound', () => {
  const grey = (...codes: number[]) =>
    lookAtPixels({ width: codes.length, height: 1, components: 1, data: Uint8Array.from(codes) });
  const pixels = (...colours: [number, number, number][]) =>
    lookAtPixels({ width: colours.length, height: 1, components: 3, data: Uint8Array.from(colours.flat()) });
  const floats = (...values: number[]) =>
    lookAtPixels({ width: values.length, height: 1, components: 1, data: Float32Array.from(values) });

  it('is dark below 0.04, and bright above a half', () => {
    // 10 / 255 is 0.0392, 11 / 255 is 0.0431; 127 / 255 is below a half, 128 / 255 above.
    expect([grey(10, 255).dark, grey(11, 255).dark]).toEqual([0.5, 0]);
    expect([grey(127, 0).bright, grey(128, 0).bright]).toEqual([0, 0.5]);
  });

  it('is grey within two codes and a half', () => {
    expect([pixels([100, 102, 100]).grey, pixels([100, 103, 100]).grey]).toEqual([1, 0]);
  });

  it('is at an end within three codes', () => {
    expect(grey(0, 3, 100, 252, 255).ends).toEqual([0.8]);
    expect(grey(0, 4, 100, 251, 255).ends).toEqual([0.4]);
    expect(grey(7, 7, 7).ends).toEqual([0]);
  });

  it('has no hue below 20 codes', () => {
    expect(pixels([20, 0, 0]).saturation).toBe(0);
    expect(pixels([21, 0, 0]).saturation).toBe(1);
  });

  it('is under 0 or over 1 only beyond them', () => {
    expect(floats(-0.001, 0, 1, 1.001)).toMatchObject({ under: 0.25, over: 0.25, floating: true });
    expect(held(floats(-0.001, 0, 1, 1.001).histogram)).toEqual({ 0: 0.25, 63: 0.25 });
  });

  it('is a vector within 0.08 of length 1 that does not look down', () => {
    const code = (value: number) => Math.round((value * 0.5 + 0.5) * 255);
    const unit = (x: number, y: number, z: number) => pixels([code(x), code(y), code(z)]).unit;
    expect([unit(0, 0, 1), unit(0, 0, 0.93), unit(0, 0, 0.9), unit(0.7, 0.7, 0), unit(0, 0, -1)]).toEqual([
      1, 1, 0, 1, 0,
    ]);
  });

  it('lies in the circle of x and y, which two components hold alone', () => {
    const pair = (x: number, y: number) =>
      lookAtPixels({ width: 1, height: 1, components: 2, data: Float32Array.of(x, y) }).disc;
    expect([pair(1, 0.5), pair(0.5, 1), pair(1, 1), pair(0.85, 0.85), pair(0.87, 0.87)]).toEqual([
      1, 1, 0, 1, 0,
    ]);
    expect(grey(1).unit).toBe(0);
  });

  it('is clear or whole within two codes and a half of alpha', () => {
    const alpha = (...codes: number[]) =>
      lookAtPixels({
        width: codes.length,
        height: 1,
        components: 2,
        data: Uint8Array.from(codes.flatMap((code) => [9, code])),
      }).alpha;
    expect(alpha(0, 2, 3, 252, 253)).toMatchObject({ clear: 0.4, full: 0.2, between: 0.4 });
    expect(grey(1).alpha).toBeNull();
  });

  it('is flat where all components equal the right neighbour, row by row', () => {
    expect(pixels([9, 9, 9], [9, 9, 9], [9, 9, 20]).flat).toBeCloseTo(2 / 3, 4);
    // Two rows of two: the ends of the rows have no neighbour.
    expect(
      lookAtPixels({ width: 2, height: 2, components: 1, data: Uint8Array.of(1, 200, 1, 200) }).flat,
    ).toBe(0.5);
  });

  it('counts colours to five bits, up to more than a palette holds', () => {
    expect(pixels([0, 0, 0], [1, 1, 1], [255, 0, 0], [0, 255, 0], [0, 0, 255]).colours).toBe(4);
    const many = Array.from({ length: 600 }, (_, i): [number, number, number] => [
      (i % 32) * 8,
      Math.floor(i / 32) * 8,
      0,
    ]);
    expect(pixels(...many).colours).toBe(MANY_COLOURS);
  });

  it('is one value within one code', () => {
    const facts = (min: number, max: number) =>
      ({ min: [min], max: [max], mean: [(min + max) / 2] }) as PixelFacts;
    expect(constantOf(facts(0.5, 0.5 + 1 / 255), 0)).toBeCloseTo(0.5 + 0.5 / 255, 9);
    expect(constantOf(facts(0.5, 0.5 + 1.02 / 255), 0)).toBeNull();
    expect(constantOf(facts(0.5, 0.5), 1)).toBeNull();
  });
});

describe('direction of normals', () => {
  it('is only looked for where an image may hold them', () => {
    const image = (paint: (x: number, y: number) => number[]) => {
      const data = new Uint8Array(64 * 64 * 3);
      for (let i = 0; i < 4096; i += 1) data.set(paint(i % 64, Math.floor(i / 64)), i * 3);
      return lookAtPixels({ width: 64, height: 64, components: 3, data }).direction;
    };
    expect(image((x) => [x * 4, x * 4, x * 4])).toBeNull();
    expect(image(() => [128, 128, 255])).toBeNull();
    expect(image((x, y) => [128 + 30 * Math.sin(x / 3), 128 + 30 * Math.sin(y / 3), 250])).not.toBeNull();
  });
});
