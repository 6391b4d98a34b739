import { describe, expect, it } from 'vitest';
import { resizeBuffer } from './components.ts';
import { type PixelBuffer, pixelAt } from './pixelBuffer.ts';
import { stitch } from './stitch.ts';

/** Two pixels beside each other. */
const cell = (components: number, data: PixelBuffer['data']): PixelBuffer => ({
  width: 2,
  height: 1,
  components,
  data,
});
const grey = cell(1, Uint8Array.of(1, 2));

describe('images in cells of one sheet', () => {
  const sheet = (...cells: (PixelBuffer | null)[]) =>
    stitch(cells, { columns: 2, rows: 2, width: 2, height: 1 });

  it('lie from the lower left to the right and upwards; an empty cell is 0', () => {
    const { width, height, components, data } = sheet(
      grey,
      cell(1, Uint8Array.of(3, 4)),
      null,
      cell(1, Uint8Array.of(5, 6)),
    );
    expect([width, height, components]).toEqual([4, 2, 1]);
    expect(data).toEqual(Uint8Array.of(0, 0, 5, 6, 1, 2, 3, 4));
  });

  it('are as deep as the deepest of them', () => {
    expect(sheet(grey, cell(1, Uint16Array.of(7, 65535))).data).toEqual(
      Uint16Array.of(0, 0, 0, 0, 257, 514, 7, 65535),
    );
    const floats = sheet(cell(1, Uint8Array.of(0, 255)), cell(1, Float32Array.of(-1, 2)));
    expect(floats.data).toEqual(Float32Array.of(0, 0, 0, 0, 0, 1, -1, 2));
  });

  it('have colours where one has, and alpha where one has', () => {
    const row = (...cells: PixelBuffer[]) => {
      const { components, data } = stitch(cells, { columns: 2, rows: 1, width: 2, height: 1 });
      return [components, [...data]];
    };
    const colours = cell(3, Uint8Array.of(10, 20, 30, 40, 50, 60));
    const faint = cell(2, Uint8Array.of(3, 4, 5, 6));
    expect(row(grey, colours)).toEqual([3, [1, 1, 1, 2, 2, 2, 10, 20, 30, 40, 50, 60]]);
    expect(row(grey, faint)).toEqual([2, [1, 255, 2, 255, 3, 4, 5, 6]]);
    expect(row(faint, colours)).toEqual([4, [3, 3, 3, 4, 5, 5, 5, 6, 10, 20, 30, 255, 40, 50, 60, 255]]);
  });

  it('of another size are made to fit, rows from the top', () => {
    const tall = { width: 1, height: 4, components: 1, data: Uint8Array.of(10, 20, 30, 50) };
    const { data } = stitch([tall], { columns: 1, rows: 1, width: 1, height: 2 });
    expect(data).toEqual(Uint8Array.of(15, 40));
    const same = { width: 1, height: 2, components: 1, data: Uint8Array.of(1, 2) };
    expect(stitch([same], { columns: 1, rows: 1, width: 1, height: 2 }).data).toEqual(Uint8Array.of(1, 2));
  });
});

it('a resized image keeps its kind of numbers', () => {
  const size = { width: 2, height: 1, components: 1 };
  for (const data of [Uint8Array.of(2, 4), Uint16Array.of(2, 4), Float32Array.of(2, 4)])
    expect(resizeBuffer({ ...size, data }, 1, 1).data).toEqual(data.slice(0, 1).fill(3));
});

it('a component at a pixel: grey stands for all colours, alpha is whole where there is none', () => {
  const of = (components: number, data: PixelBuffer['data']) =>
    ([0, 1, 2, 3] as const).map((k) => pixelAt(cell(components, data), 1, 0, k));
  expect(of(1, Uint8Array.of(0, 51))).toEqual([0.2, 0.2, 0.2, 1]);
  expect(of(2, Uint16Array.of(0, 0, 13107, 65535))).toEqual([0.2, 0.2, 0.2, 1]);
  expect(of(2, Uint8Array.of(0, 0, 255, 51))).toEqual([1, 1, 1, 0.2]);
  expect(of(3, Uint8Array.of(0, 0, 0, 51, 102, 255))).toEqual([0.2, 0.4, 1, 1]);
  expect(of(4, Float32Array.of(0, 0, 0, 0, 2, -1, 0.5, 0.25))).toEqual([2, -1, 0.5, 0.25]);
});
