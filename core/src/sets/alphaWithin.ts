import { LAYOUT, layoutCells, type UvLayout } from '../asset/uvLayout.ts';
import { alphaVaries } from '../maps/fitReadings.ts';
import type { PixelFacts } from '../maps/pixelFacts.ts';
import { SKETCH } from '../maps/sketch.ts';

/** Cells whose mean alpha lies below this are not all there. */
const THERE = 0.97;
/** Up to this share of the cells within the islands alpha is the bleeding of a clear background. */
const BLED = 0.02;

/**
 * Share of the cells that faces use, in 0..1, where the alpha is not 1. Exporters leave clear what lies
 * outside of the islands; that is no cut-out. Without a layout every cell counts; 0 where there is no alpha
 * that varies.
 */
export function alphaWithin(layout: UvLayout | undefined, facts: PixelFacts): number {
  if (!alphaVaries(facts)) return 0;
  const bytes = atob(facts.sketch);
  const size = SKETCH * SKETCH;
  const plane = (facts.components === 4 ? 3 : 1) * size;
  const cells = layout ? layoutCells(layout) : null;
  const scale = LAYOUT / SKETCH;
  let [all, partly] = [0, 0];
  for (let i = 0; i < size; i += 1) {
    if (cells && !isCovered(cells, Math.floor(i / SKETCH) * scale, (i % SKETCH) * scale, scale)) continue;
    all += 1;
    if (bytes.charCodeAt(plane + i) / 255 < THERE) partly += 1;
  }
  const share = all > 0 ? partly / all : 0;
  return share > BLED ? share : 0;
}

/** Whether faces lie on a whole cell of the sketch and on all cells around it. */
function isCovered(cells: Uint8Array, row: number, column: number, scale: number): boolean {
  for (let y = Math.max(0, row - 1); y < Math.min(LAYOUT, row + scale + 1); y += 1)
    for (let x = Math.max(0, column - 1); x < Math.min(LAYOUT, column + scale + 1); x += 1)
      if (cells[y * LAYOUT + x] === 0) return false;
  return true;
}
