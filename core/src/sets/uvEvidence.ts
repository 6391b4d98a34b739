import { LAYOUT, layoutCells, type UvLayout } from '../asset/uvLayout.ts';
import { ACTIVITY, activitySteps } from '../maps/activity.ts';
import type { PixelFacts } from '../maps/pixelFacts.ts';
import { SKETCH } from '../maps/sketch.ts';

/** Cells of a layout, sorted by where they lie. */
interface LayoutZones {
  inside: Uint16Array;
  outside: Uint16Array;
}

/** Share of faces that repeat the image, from which on the layout says nothing. */
const REPEATING = 0.2;
/** Fewer cells than this outside of the islands say nothing; the same within. */
const LEAST_OUTSIDE = 80;
const LEAST_INSIDE = 40;

const zonesByLayout = new Map<string, LayoutZones | null>();
const KEPT_LAYOUTS = 2000;

/** Cells well within islands and well outside of them; null where the layout leaves nothing to tell by. */
function zonesOf(layout: UvLayout): LayoutZones | null {
  const existing = zonesByLayout.get(layout.cells);
  if (existing !== undefined) return existing;
  const zones = sortCells(layoutCells(layout));
  if (zonesByLayout.size >= KEPT_LAYOUTS) zonesByLayout.clear();
  zonesByLayout.set(layout.cells, zones);
  return zones;
}

function sortCells(cells: Uint8Array): LayoutZones | null {
  const inside: number[] = [];
  const outside: number[] = [];
  for (let row = 0; row < LAYOUT; row += 1) {
    for (let column = 0; column < LAYOUT; column += 1) {
      const covered = countAround(cells, row, column);
      if (covered === 9) inside.push(row * LAYOUT + column);
      else if (covered === 0) outside.push(row * LAYOUT + column);
    }
  }
  if (outside.length < LEAST_OUTSIDE) return null;
  // Thin islands have no inner cells; then every covered one counts.
  const whole = inside.length >= LEAST_INSIDE ? inside : [...cells.keys()].filter((i) => cells[i] === 1);
  if (whole.length < LEAST_INSIDE) return null;
  return { inside: Uint16Array.from(whole), outside: Uint16Array.from(outside) };
}

/** Covered cells among a cell and its neighbours; beyond the border the border's own cells count again. */
function countAround(cells: Uint8Array, row: number, column: number): number {
  let count = 0;
  for (let y = row - 1; y <= row + 1; y += 1) {
    for (let x = column - 1; x <= column + 1; x += 1) {
      const [cy, cx] = [Math.min(LAYOUT - 1, Math.max(0, y)), Math.min(LAYOUT - 1, Math.max(0, x))];
      count += cells[cy * LAYOUT + cx];
    }
  }
  return count;
}

const fitsByImage = new WeakMap<PixelFacts, Map<string, number | null>>();

/**
 * How well an image fits a layout, in -1..1: 1 where it has detail within the islands and none, or one
 * colour, outside of them; about 0 for an image that was painted for another layout. Null where layout or
 * image cannot tell.
 */
export function layoutFit(layout: UvLayout, facts: PixelFacts): number | null {
  if (layout.repeats > REPEATING) return null;
  let fits = fitsByImage.get(facts);
  if (!fits) {
    fits = new Map();
    fitsByImage.set(facts, fits);
  }
  const existing = fits.get(layout.cells);
  if (existing !== undefined) return existing;
  const zones = zonesOf(layout);
  const fit = zones && facts.activity ? fitOf(zones, facts) : null;
  fits.set(layout.cells, fit);
  return fit;
}

function fitOf({ inside, outside }: LayoutZones, facts: PixelFacts): number | null {
  const steps = activitySteps(facts.activity);
  if (steps.length !== ACTIVITY * ACTIVITY) return null;
  const [within, beyond] = [histogram(steps, inside), histogram(steps, outside)];
  const flatEverywhere =
    within[0] + within[1] > 0.97 * inside.length && beyond[0] + beyond[1] > 0.97 * outside.length;
  const background = backgroundShare(facts, inside, outside);
  if (flatEverywhere && Math.abs(background) < 0.05) return null;
  // The chance that a cell within is livelier than one beyond, from 0.5 for no difference.
  const lead = 2 * chanceOfMore(within, beyond) - 1;
  return Math.max(-1, Math.min(1, 0.6 * lead + 0.6 * background));
}

function histogram(steps: Uint8Array, cells: Uint16Array): Float64Array {
  const counts = new Float64Array(16);
  for (const cell of cells) counts[steps[cell]] += 1;
  return counts;
}

function chanceOfMore(within: Float64Array, beyond: Float64Array): number {
  const [n, m] = [within.reduce((a, b) => a + b), beyond.reduce((a, b) => a + b)];
  let [wins, below] = [0, 0];
  for (let step = 0; step < within.length; step += 1) {
    wins += within[step] * (below + beyond[step] / 2);
    below += beyond[step];
  }
  return wins / (n * m);
}

/**
 * How much more often the usual colour of the cells beyond the islands stands there than within, in -1..1.
 */
function backgroundShare({ sketch }: PixelFacts, inside: Uint16Array, outside: Uint16Array): number {
  const bytes = atob(sketch);
  const size = SKETCH * SKETCH;
  const components = Math.min(3, Math.floor(bytes.length / size));
  const scale = LAYOUT / SKETCH;
  const colourAt = (cell: number) => {
    const index =
      Math.floor(Math.floor(cell / LAYOUT) / scale) * SKETCH + Math.floor((cell % LAYOUT) / scale);
    let code = 0;
    for (let k = 0; k < components; k += 1) code = code * 32 + (bytes.charCodeAt(k * size + index) >> 3);
    return code;
  };
  const counts = new Map<number, number>();
  for (const cell of outside) counts.set(colourAt(cell), (counts.get(colourAt(cell)) ?? 0) + 1);
  let [usual, most] = [-1, 0];
  for (const [code, count] of counts) if (count > most) [usual, most] = [code, count];
  let same = 0;
  for (const cell of inside) if (colourAt(cell) === usual) same += 1;
  return most / outside.length - same / inside.length;
}
