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
 * Others than the cell's size are resized; an empty cell is 0. Depth and components are those of the deepest
 * and the fullest.
 */
export function stitch(
  cells: readonly (PixelBuffer | null)[],
  { columns, rows, width, height }: Cells,
): PixelBuffer {
  const there = cells.flatMap((cell) => (cell ? [cell] : []));
  const components = Math.max(1, ...there.map((cell) => cell.components));
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

/** Grey stands for three equal components; alpha is whole where there is none. */
function componentOf(
  { components: channelCount, data }: PixelBuffer,
  from: number,
  k: number,
  required: number,
): number {
  const alpha = required === 2 || required === 4 ? required - 1 : -1;
  if (k === alpha)
    return channelCount === 2 || channelCount === 4 ? data[from + channelCount - 1] : unitOf(data);
  return data[from + (channelCount < 3 ? 0 : k)];
}
