import { type PixelBuffer, unitOf } from '../images/pixelBuffer.ts';

/** What the colours at the edge of a cut-out say; null where there is no such edge. */
export interface EdgeFacts {
  /**
   * Mean difference, in 0..1, between clear pixels and the visible ones beside them: what filtering draws in.
   */
  foreign: number;
  /**
   * Of half-clear pixels, the share whose colour is nearer to alpha times the whole colour than to the whole
   * colour.
   */
  premultiplied: number;
  /** Half-clear pixels that could tell. */
  telling: number;
}

const LINES = 256;
const WHOLE = 0.95;
const CLEAR = 0.01;
/** From this alpha on a pixel's colour is seen. */
export const VISIBLE = 0.25;
/** How far from the edge a clear or half-clear pixel may lie. */
const REACH = 3;
/** Whole colours darker than this do not tell. */
const DARK = 0.15;

/** Looks along up to 256 rows and as many columns at what lies beside the edge of the alpha. */
export function lookAtEdges(buffer: PixelBuffer): EdgeFacts | null {
  const { width, height, components, data } = buffer;
  if (components !== 2 && components !== 4) return null;
  const unit = unitOf(data);
  let [foreign, beside, premultiplied, telling] = [0, 0, 0, 0];
  const walk = (first: number, count: number, stride: number) => {
    // The last whole pixel of the line, then the same from the other end.
    for (const [from, step] of [
      [0, 1],
      [count - 1, -1],
    ]) {
      let whole = -1;
      let since = REACH + 1;
      let visible = -1;
      let sinceVisible = REACH + 1;
      for (let n = 0, i = from; n < count; n += 1, i += step) {
        const index = (first + i * stride) * components;
        const alpha = data[index + components - 1] / unit;
        if (alpha >= WHOLE) {
          whole = visible = index;
          since = sinceVisible = 0;
          continue;
        }
        since += 1;
        sinceVisible += 1;
        if (alpha >= VISIBLE) {
          visible = index;
          sinceVisible = 0;
        }
        if (alpha <= CLEAR && visible >= 0 && sinceVisible <= REACH) {
          let most = 0;
          for (let k = 0; k < components - 1; k += 1)
            most = Math.max(most, Math.abs(data[index + k] - data[visible + k]) / unit);
          foreign += most;
          beside += 1;
        } else if (whole >= 0 && since <= REACH && alpha > 0.1 && alpha < 0.85) {
          const full = brightest(data, whole, components) / unit;
          if (full < DARK) continue;
          const ratio = brightest(data, index, components) / unit / full;
          telling += 1;
          if (Math.abs(ratio - alpha) < Math.abs(ratio - 1)) premultiplied += 1;
        }
      }
    }
  };
  for (let y = 0; y < height; y += Math.max(1, Math.floor(height / LINES))) walk(y * width, width, 1);
  for (let x = 0; x < width; x += Math.max(1, Math.floor(width / LINES))) walk(x, height, width);
  if (beside + telling === 0) return null;
  const round = (value: number) => Math.round(value * 1e4) / 1e4;
  return {
    foreign: beside === 0 ? 0 : round(foreign / beside),
    premultiplied: telling === 0 ? 0 : round(premultiplied / telling),
    telling,
  };
}

/**
 * Corner of the window of the given side that holds most of the alpha's edge; the middle where there is no
 * alpha.
 */
export function busiestEdge(
  { width, height, components, data }: PixelBuffer,
  side: number,
): { x: number; y: number } {
  if (components !== 2 && components !== 4)
    return { x: Math.max(0, (width - side) >> 1), y: Math.max(0, (height - side) >> 1) };
  const [columns, rows] = [Math.max(1, Math.floor(width / side)), Math.max(1, Math.floor(height / side))];
  const counts = new Uint32Array(columns * rows);
  const half = unitOf(data) / 2;
  for (let y = 0; y < height; y += 2) {
    for (let x = 1; x < width; x += 1) {
      const index = (y * width + x + 1) * components - 1;
      if (data[index] > half === data[index - components] > half) continue;
      counts[
        Math.min(rows - 1, Math.floor(y / side)) * columns + Math.min(columns - 1, Math.floor(x / side))
      ] += 1;
    }
  }
  const best = counts.indexOf(Math.max(...counts));
  return { x: (best % columns) * side, y: Math.floor(best / columns) * side };
}

function brightest(data: PixelBuffer['data'], index: number, components: number): number {
  let most = data[index];
  for (let k = 1; k < components - 1; k += 1) most = Math.max(most, data[index + k]);
  return most;
}
