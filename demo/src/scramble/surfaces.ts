import { createRandom } from '../noise.ts';
import { normalsFromHeight, type Painter, paint } from '../paint.ts';
import { brass, buoyPaint, iron, rope, rubber } from '../surfaces.ts';

/** Side of every image of the scrambled parcels, in pixels. */
export const SIDE = 128;

/** A rectangle of a UV layout in 0..1, v upwards. */
export interface Island {
  left: number;
  low: number;
  wide: number;
  high: number;
}

/** What lies outside of the islands of an image. */
export type Background = 'flat' | 'padded' | 'clear' | 'painted';

/** The truth about one material, as 8-bit planes of {@link SIDE} squared, top row first. */
export interface Planes {
  /** sRGB, three numbers a pixel. */
  baseColor: Uint8Array;
  /** Tangent space, Y+, three numbers a pixel. */
  normal: Uint8Array;
  roughness: Uint8Array;
  metalness: Uint8Array;
  occlusion: Uint8Array;
  /** sRGB; null where nothing glows. */
  emission: Uint8Array | null;
  /** Null where all is there. */
  opacity: Uint8Array | null;
  /** Alpha outside of the islands is 0 although nothing is cut out. */
  clearBackground: boolean;
}

const PAINTERS: readonly ((seed: number) => Painter)[] = [brass, iron, buoyPaint, rope, rubber];

/** A layout of rectangles that do not touch, cut from the unit square by a seed. */
export function randomLayout(seed: number): Island[] {
  const random = createRandom(seed);
  const islands: Island[] = [];
  const cut = (left: number, low: number, wide: number, high: number, depth: number) => {
    if (depth === 0 || (depth < 3 && random() < 0.25)) {
      if (random() < 0.22) return;
      const margin = 0.035;
      const shrink = 0.55 + 0.4 * random();
      const [w, h] = [(wide - 2 * margin) * shrink, (high - 2 * margin) * (0.55 + 0.4 * random())];
      if (w > 0.04 && h > 0.04) islands.push({ left: left + margin, low: low + margin, wide: w, high: h });
      return;
    }
    const at = 0.35 + 0.3 * random();
    if (wide > high) {
      cut(left, low, wide * at, high, depth - 1);
      cut(left + wide * at, low, wide * (1 - at), high, depth - 1);
    } else {
      cut(left, low, wide, high * at, depth - 1);
      cut(left, low + high * at, wide, high * (1 - at), depth - 1);
    }
  };
  cut(0, 0, 1, 1, 3);
  return islands.length > 0 ? islands : [{ left: 0.1, low: 0.1, wide: 0.5, high: 0.6 }];
}

/** What a surface looks like. */
export interface SurfaceChoice {
  seed: number;
  islands: readonly Island[];
  background: Background;
  alpha: 'opaque' | 'mask' | 'blend';
  glows: boolean;
}

/** Paints one material: a surface of the harbour in a tint of its own, within its islands. */
export function paintSurface({ seed, islands, background, alpha, glows }: SurfaceChoice): Planes {
  const random = createRandom(seed * 7919 + 13);
  const painted = paint(SIDE, PAINTERS[seed % PAINTERS.length](seed));
  const tint = [0.55 + 0.6 * random(), 0.55 + 0.6 * random(), 0.55 + 0.6 * random()];
  const bytes = (values: Float32Array, of: (value: number, i: number) => number) =>
    Uint8Array.from(values, (value, i) => Math.round(255 * clamp(of(value, i))));
  const planes: Planes = {
    baseColor: bytes(painted.colour, (value, i) => value * tint[i % 3]),
    normal: bytes(normalsFromHeight(painted, 8), (value) => value),
    roughness: bytes(painted.roughness, (value) => 0.15 + 0.8 * value),
    metalness: bytes(painted.metalness, (value) => value),
    occlusion: bytes(painted.occlusion, (value, i) => value * (0.86 + 0.14 * Math.sin((i % SIDE) / 9))),
    emission: glows ? glow(seed) : null,
    opacity: alpha === 'opaque' ? null : cover(seed, alpha),
    clearBackground: background === 'clear',
  };
  // Every channel varies, so that each is a map and no value.
  vary(planes.metalness, 60);
  if (background !== 'painted') fillOutside(planes, islands, background);
  return planes;
}

function clamp(value: number): number {
  return Math.min(1, Math.max(0, value));
}

function vary(plane: Uint8Array, amount: number): void {
  const [low, high] = [Math.min(...plane), Math.max(...plane)];
  if (high - low > amount) return;
  for (let i = 0; i < plane.length; i += 1)
    plane[i] = (i % SIDE) % 32 < 16 ? Math.max(0, plane[i] - amount) : Math.min(255, plane[i] + amount);
}

/** Warm spots on black. */
function glow(seed: number): Uint8Array {
  const out = new Uint8Array(SIDE * SIDE * 3);
  for (let y = 0; y < SIDE; y += 1)
    for (let x = 0; x < SIDE; x += 1) {
      const inSpot = (x + seed * 5) % 32 < 7 && (y + seed * 3) % 24 < 6;
      if (inSpot) out.set([255, 190 - (seed % 5) * 20, 70 + (seed % 7) * 12], (y * SIDE + x) * 3);
    }
  return out;
}

/** A lattice for cut-outs, a ramp for panes. */
function cover(seed: number, alpha: 'mask' | 'blend'): Uint8Array {
  const out = new Uint8Array(SIDE * SIDE);
  for (let y = 0; y < SIDE; y += 1)
    for (let x = 0; x < SIDE; x += 1) {
      const strand = (x + y + seed) % 16 < 6 || (x - y + 512 + seed) % 16 < 6;
      const ramp = 60 + ((x * 97 + y * 31 + seed * 11) % 128);
      const lattice = strand ? 255 : 0;
      out[y * SIDE + x] = alpha === 'mask' ? lattice : ramp;
    }
  return out;
}

function isInside(islands: readonly Island[], x: number, y: number, margin: number): boolean {
  const [u, v] = [(x + 0.5) / SIDE, 1 - (y + 0.5) / SIDE];
  return islands.some(
    ({ left, low, wide, high }) =>
      u > left - margin && u < left + wide + margin && v > low - margin && v < low + high + margin,
  );
}

const BACK = {
  baseColor: [0, 0, 0],
  normal: [128, 128, 255],
  roughness: [0],
  metalness: [0],
  occlusion: [255],
  emission: [0, 0, 0],
} as const;
/** Painting reaches a little beyond the islands. */
const BLEED = 0.012;

function fillOutside(planes: Planes, islands: readonly Island[], background: Background): void {
  for (const [name, back] of Object.entries(BACK) as [keyof typeof BACK, readonly number[]][]) {
    const plane = planes[name];
    if (!plane) continue;
    const size = back.length;
    const means = background === 'padded' ? islandMeans(plane, size, islands) : [];
    for (let y = 0; y < SIDE; y += 1)
      for (let x = 0; x < SIDE; x += 1) {
        if (isInside(islands, x, y, BLEED)) continue;
        const colour = background === 'padded' ? means[nearest(islands, x, y)] : back;
        plane.set(colour, (y * SIDE + x) * size);
      }
  }
}

function islandMeans(plane: Uint8Array, size: number, islands: readonly Island[]): number[][] {
  return islands.map(({ left, low, wide, high }) => {
    const [x, y] = [Math.floor((left + wide / 2) * SIDE), Math.floor((1 - low - high / 2) * SIDE)];
    return [...plane.subarray((y * SIDE + x) * size, (y * SIDE + x) * size + size)];
  });
}

function nearest(islands: readonly Island[], x: number, y: number): number {
  const [u, v] = [(x + 0.5) / SIDE, 1 - (y + 0.5) / SIDE];
  let [best, least] = [0, Number.POSITIVE_INFINITY];
  for (const [i, { left, low, wide, high }] of islands.entries()) {
    const away = Math.max(left - u, u - left - wide, low - v, v - low - high);
    if (away < least) [best, least] = [i, away];
  }
  return best;
}
