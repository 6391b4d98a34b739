import { resizeBuffer } from './components.ts';
import { type PixelArray, type PixelBuffer, unitOf } from './pixelBuffer.ts';

/** A sheet divided into equal cells. */
export interface Cells {
  columns: number;
  rows: number;
  /** Of one cell, in pixels. */
  width: number;
  height: number;
}

/**
 * Images beside each other in cells of one size, from the lower left to the right and upwards, as UVs count.
 * Others than the cell's size are resized; an empty cell is 0. The sheet is as deep as the deepest, and has
 * colours and alpha where one of them has.
 */
export function stitch(
  cells: readonly (PixelBuffer | null)[],
  { columns, rows, width, height }: Cells,
): PixelBuffer {
  const there = cells.flatMap((cell) => (cell ? [cell] : []));
  const colours = there.some((cell) => cell.components >= 3) ? 3 : 1;
  const components = colours + (there.some((cell) => hasAlpha(cell.components)) ? 1 : 0);
  const data = arrayFor(there, width * columns * height * rows * components);
  const unit = unitOf(data);
  cells.forEach((given, i) => {
    if (!given) return;
    const cell = resizeBuffer(given, width, height);
    const scale = unit / unitOf(cell.data);
    const [left, top] = [(i % columns) * width, (rows - 1 - Math.floor(i / columns)) * height];
    for (let y = 0; y < height; y += 1) {
      for (let x = 0; x < width; x += 1) {
        const from = (y * width + x) * cell.components;
        const to = ((top + y) * width * columns + left + x) * components;
        for (let k = 0; k < components; k += 1) data[to + k] = componentOf(cell, from, k, components) * scale;
      }
    }
  });
  return { width: width * columns, height: height * rows, components, data };
}

function arrayFor(buffers: readonly PixelBuffer[], length: number): PixelArray {
  if (buffers.some(({ data }) => data instanceof Float32Array)) return new Float32Array(length);
  return buffers.some(({ data }) => data instanceof Uint16Array)
    ? new Uint16Array(length)
    : new Uint8Array(length);
}

function hasAlpha(components: number): boolean {
  return components === 2 || components === 4;
}

/** Grey stands for three equal components; alpha is whole where there is none. */
function componentOf(
  { components: channelCount, data }: PixelBuffer,
  from: number,
  k: number,
  required: number,
): number {
  const isAlpha = hasAlpha(required) && k === required - 1;
  if (isAlpha) return hasAlpha(channelCount) ? data[from + channelCount - 1] : unitOf(data);
  return data[from + (channelCount < 3 ? 0 : k)];
}
