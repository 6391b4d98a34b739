/** A small, fast generator of numbers in [0, 1) from a seed (mulberry32). */
export function createRandom(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** Gradient noise over a torus: repeats every 1 in u and v. Values lie in about -1..1. */
export type Noise = (u: number, v: number, cellsU: number, cellsV: number) => number;

/** Gradient noise that repeats at the edges of 0..1; the same seed makes the same. */
export function createNoise(seed: number): Noise {
  const random = createRandom(seed);
  const angles = Float32Array.from({ length: 4096 }, () => random() * Math.PI * 2);
  const cos = angles.map(Math.cos);
  const sin = angles.map(Math.sin);
  const fade = (t: number) => t * t * t * (t * (t * 6 - 15) + 10);
  return (u, v, cellsU, cellsV) => {
    const x = u * cellsU;
    const y = v * cellsV;
    const ix = Math.floor(x);
    const iy = Math.floor(y);
    const fx = x - ix;
    const fy = y - iy;
    const x0 = ((ix % cellsU) + cellsU) % cellsU;
    const y0 = ((iy % cellsV) + cellsV) % cellsV;
    const x1 = x0 + 1 === cellsU ? 0 : x0 + 1;
    const y1 = y0 + 1 === cellsV ? 0 : y0 + 1;
    const left = Math.imul(x0 + cellsU * 131, 73856093);
    const right = Math.imul(x1 + cellsU * 131, 73856093);
    const low = Math.imul(y0 + cellsV * 37, 19349663);
    const high = Math.imul(y1 + cellsV * 37, 19349663);
    const ha = (left ^ low) & 4095;
    const hb = (right ^ low) & 4095;
    const hc = (left ^ high) & 4095;
    const hd = (right ^ high) & 4095;
    const a = cos[ha] * fx + sin[ha] * fy;
    const b = cos[hb] * (fx - 1) + sin[hb] * fy;
    const c = cos[hc] * fx + sin[hc] * (fy - 1);
    const d = cos[hd] * (fx - 1) + sin[hd] * (fy - 1);
    const wx = fade(fx);
    const near = a + (b - a) * wx;
    const far = c + (d - c) * wx;
    return (near + (far - near) * fade(fy)) * 1.5;
  };
}

/** Octaves of noise, each twice as fine and `gain` times as strong; about -1..1. */
export function fractal(
  noise: Noise,
  u: number,
  v: number,
  cellsU: number,
  cellsV: number,
  octaves: number,
  gain = 0.5,
): number {
  let sum = 0;
  let weight = 1;
  let total = 0;
  for (let i = 0; i < octaves; i += 1) {
    sum += noise(u, v, cellsU << i, cellsV << i) * weight;
    total += weight;
    weight *= gain;
  }
  return sum / total;
}

/** 0 below `from`, 1 above `to`, and 3t² - 2t³ between. */
export function smoothstep(from: number, to: number, x: number): number {
  const t = Math.min(1, Math.max(0, (x - from) / (to - from)));
  return t * t * (3 - 2 * t);
}

/** From `a` at 0 to `b` at 1. */
export function mix(a: number, b: number, t: number): number {
  return a + (b - a) * t;
}
