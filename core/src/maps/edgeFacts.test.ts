import { describe, expect, it } from 'vitest';
import { busiestEdge, lookAtEdges } from './edgeFacts.ts';
import { fitLine, sketchOf, sketchPlane } from './sketch.ts';

/** A disc with a smooth rim; its colour is given by what lies under it. */
function disc(colour: (alpha: number) => [number, number, number], side = 128) {
  const data = new Uint8Array(side * side * 4);
  for (let y = 0; y < side; y += 1)
    for (let x = 0; x < side; x += 1) {
      const alpha = Math.min(1, Math.max(0, side * 0.3 - Math.hypot(x - side / 2, y - side / 2)));
      data.set([...colour(alpha), Math.round(alpha * 255)], (y * side + x) * 4);
    }
  return { width: side, height: side, components: 4, data };
}

describe('edges', () => {
  it('are clean where the colour goes on under the alpha', () => {
    expect(lookAtEdges(disc(() => [200, 120, 60]))).toMatchObject({ foreign: 0, premultiplied: 0 });
  });

  it('have a fringe where another colour lies there', () => {
    const facts = lookAtEdges(disc((alpha) => (alpha > 0 ? [200, 120, 60] : [255, 255, 255])));
    // The largest difference of a component: 255 - 60.
    expect(facts?.foreign).toBeCloseTo(195 / 255, 3);
    expect(facts?.premultiplied).toBe(0);
  });

  it('are told premultiplied by half-clear pixels that are as dark as their alpha', () => {
    const facts = lookAtEdges(disc((alpha) => [200 * alpha, 120 * alpha, 60 * alpha]));
    expect(facts?.premultiplied).toBe(1);
    expect(facts?.telling).toBeGreaterThan(20);
  });

  it('are looked for where there are most', () => {
    const { x, y } = busiestEdge(
      disc(() => [0, 0, 0]),
      32,
    );
    expect([x % 32, y % 32]).toEqual([0, 0]);
    expect(Math.hypot(x + 16 - 64, y + 16 - 64)).toBeLessThan(64);
  });
});

describe('sketches', () => {
  it('hold the mean of each cell, component by component', () => {
    const data = Uint8Array.from({ length: 64 * 64 * 3 }, (_, i) =>
      i % 3 === 0 ? (Math.floor(i / 3) % 64) * 4 : 100,
    );
    const plane = sketchPlane(sketchOf({ width: 64, height: 64, components: 3, data }), 0) as Float64Array;
    expect(plane).toHaveLength(1024);
    expect(plane[0] * 255).toBeCloseTo(2, 0);
    expect(plane[31] * 255).toBeCloseTo(250, 0);
  });

  it('fit a line by least squares', () => {
    const x = Float64Array.of(0, 1, 2, 3);
    expect(fitLine(x, Float64Array.of(1, 3, 5, 7))).toMatchObject({ slope: 2, correlation: 1 });
    expect(fitLine(Float64Array.of(1, 1, 1, 1), x)).toBeNull();
  });
});
