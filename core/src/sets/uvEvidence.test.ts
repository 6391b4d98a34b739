import { describe, expect, it } from 'vitest';
import { LAYOUT, type UvLayout } from '../asset/uvLayout.ts';
import { lookAtPixels, type PixelFacts } from '../maps/pixelFacts.ts';
import { alphaWithin } from './alphaWithin.ts';
import { layoutFit } from './uvEvidence.ts';

const SIZE = 128;
type Test = (column: number, row: number) => boolean;

/** A layout whose cells pass a test. */
function layout(covers: Test, repeats = 0): UvLayout {
  let cells = '';
  for (let row = 0; row < LAYOUT; row += 1)
    for (let column = 0; column < LAYOUT; column += 4) {
      let digit = 0;
      for (let bit = 0; bit < 4; bit += 1) if (covers(column + bit, row)) digit |= 8 >> bit;
      cells += digit.toString(16);
    }
  return { cells, repeats };
}

function facts(paint: (x: number, y: number) => number[]): PixelFacts {
  const values: number[] = [];
  for (let y = 0; y < SIZE; y += 1) for (let x = 0; x < SIZE; x += 1) values.push(...paint(x, y));
  return lookAtPixels({
    width: SIZE,
    height: SIZE,
    components: values.length / SIZE ** 2,
    data: Uint8Array.from(values),
  });
}

const left: Test = (column) => column < 30;
const right: Test = (column) => column >= 34;
const grain = (x: number, y: number) => 80 + ((x * 37 + y * 91) % 130);
/** Grain where cells pass, one colour elsewhere. */
const painted = (covers: Test, back: number) =>
  facts((x, y) => (covers(x >> 1, y >> 1) ? [grain(x, y), grain(y, x), 90] : [back, back, back]));

describe('how well an image fits a layout', () => {
  it('is high where detail lies within the islands, low where it lies outside', () => {
    expect(layoutFit(layout(left), painted(left, 0))).toBeGreaterThan(0.9);
    expect(layoutFit(layout(left), painted(right, 0))).toBeLessThan(-0.3);
  });

  it('is about nothing for an image that covers everything', () => {
    expect(
      Math.abs(
        layoutFit(
          layout(left),
          painted(() => true, 0),
        ) ?? 1,
      ),
    ).toBeLessThan(0.15);
  });

  it('cannot tell from layouts that repeat or fill the image, nor from flat images', () => {
    expect(layoutFit(layout(left, 0.5), painted(left, 0))).toBeNull();
    expect(
      layoutFit(
        layout(() => true),
        painted(left, 0),
      ),
    ).toBeNull();
    expect(
      layoutFit(
        layout(() => false),
        painted(left, 0),
      ),
    ).toBeNull();
    expect(
      layoutFit(
        layout(left),
        facts(() => [90, 90, 90]),
      ),
    ).toBeNull();
  });
});

describe('alpha where faces use it', () => {
  const alpha = (value: (x: number, y: number) => number) =>
    facts((x, y) => [grain(x, y), 60, 60, value(x, y)]);
  it('is nothing where only the background is clear, and a share where islands are', () => {
    expect(
      alphaWithin(
        layout(left),
        alpha((x) => (x < 64 ? 255 : 0)),
      ),
    ).toBe(0);
    // Every second row of eight: half of each cell of the sketch, so that every cell is not all there.
    expect(
      alphaWithin(
        layout(left),
        alpha((x, y) => (x < 64 && y % 4 < 2 ? 255 : 0)),
      ),
    ).toBe(1);
    expect(
      alphaWithin(
        undefined,
        alpha((x) => (x < 64 ? 255 : 0)),
      ),
    ).toBeCloseTo(0.5, 9);
    expect(
      alphaWithin(
        undefined,
        facts((x, y) => [grain(x, y), 60, 60]),
      ),
    ).toBe(0);
  });
});
