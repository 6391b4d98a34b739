import { createNoise, createRandom, fractal, mix, smoothstep } from './noise.ts';
import type { Painter, Texel } from './paint.ts';

type Colour = readonly [number, number, number];

function setColour(out: Texel, a: Colour, b: Colour, t: number, shade = 1): void {
  out.r = mix(a[0], b[0], t) * shade;
  out.g = mix(a[1], b[1], t) * shade;
  out.b = mix(a[2], b[2], t) * shade;
}

function cover(out: Texel, r: number, g: number, b: number, amount: number): void {
  out.r = mix(out.r, r, amount);
  out.g = mix(out.g, g, amount);
  out.b = mix(out.b, b, amount);
}

/**
 * Old brass: warm metal, brown tarnish in patches, fine scratches along the turning, green in the deepest
 * spots.
 */
export function brass(seed: number): Painter {
  const noise = createNoise(seed);
  const metal: Colour = [0.86, 0.68, 0.36];
  const tarnish: Colour = [0.5, 0.36, 0.19];
  return (u, v, out) => {
    const patch = smoothstep(-0.05, 0.55, fractal(noise, u, v, 4, 4, 5));
    const fine = fractal(noise, u, v, 40, 40, 3);
    const scratch = noise(u, v, 4, 256) * 0.5 + noise(u, v, 12, 512) * 0.5;
    const verdigris = smoothstep(0.42, 0.62, fractal(noise, u + 0.31, v + 0.17, 6, 6, 4));
    setColour(out, metal, tarnish, patch, 1 + 0.05 * fine + 0.03 * scratch);
    out.r = mix(out.r, 0.32, verdigris * 0.75);
    out.g = mix(out.g, 0.5, verdigris * 0.75);
    out.b = mix(out.b, 0.42, verdigris * 0.75);
    out.metalness = 1 - verdigris * 0.9 - patch * 0.08;
    out.roughness = 0.2 + 0.28 * patch + 0.4 * verdigris + 0.05 * scratch + 0.05 * fine;
    out.height = 0.5 + 0.1 * fractal(noise, u, v, 8, 8, 3) + 0.03 * scratch + 0.1 * verdigris * (0.5 + fine);
    out.occlusion = 1 - 0.25 * verdigris - 0.08 * Math.max(0, -fine);
  };
}

/** Blackened iron with a little brown rust. */
export function iron(seed: number): Painter {
  const noise = createNoise(seed);
  return (u, v, out) => {
    const rust = smoothstep(0.1, 0.5, fractal(noise, u, v, 6, 6, 5));
    const fine = fractal(noise, u, v, 48, 48, 3);
    setColour(out, [0.27, 0.27, 0.28], [0.4, 0.23, 0.13], rust, 1 + 0.12 * fine);
    out.metalness = 1 - rust;
    out.roughness = 0.42 + 0.4 * rust + 0.06 * fine;
    out.height = 0.5 + 0.12 * fine + 0.15 * rust;
    out.occlusion = 1 - 0.15 * rust;
  };
}

/** A flame: white-hot core at the foot, orange body, red tip. The height along v, the heart at v = 0.3. */
export function flame(seed: number): Painter {
  const noise = createNoise(seed);
  return (u, v, out) => {
    const lick = 0.06 * fractal(noise, u, v, 4, 4, 4);
    const heat = 1 - smoothstep(0.05, 0.95, v + lick);
    out.r = mix(0.85, 1, heat);
    out.g = mix(0.16, 0.86, smoothstep(0, 0.9, heat));
    out.b = mix(0.02, 0.5, heat * heat);
    out.metalness = 0;
    out.roughness = 1;
    out.height = 0.5;
    out.occlusion = 1;
  };
}

/**
 * Painted steel of a buoy: red paint, rust that runs down from chips, a white band, bare rubbed rings.
 * `v` runs from the keel to the tower's top.
 */
export function buoyPaint(seed: number): Painter {
  const noise = createNoise(seed);
  const random = createRandom(seed + 9);
  const streaks = Array.from({ length: 46 }, () => ({
    u: random(),
    top: 0.25 + random() * 0.7,
    length: 0.08 + random() * 0.26,
    width: 0.004 + random() * 0.012,
  }));
  const rings = [0.3, 0.52, 0.955];
  return (u, v, out) => {
    const large = fractal(noise, u, v, 5, 5, 6, 0.55);
    const fine = fractal(noise, u + 0.5, v, 64, 64, 3);
    const wet = smoothstep(0.34, 0.12, v);
    let chip = smoothstep(0.2, 0.27, large + 0.12 * fine + wet * 0.16);
    for (const ring of rings)
      chip = Math.max(
        chip,
        smoothstep(0.013, 0.004, Math.abs(v - ring) + 0.006 * fine) * smoothstep(-0.35, 0.1, large),
      );
    let run = 0;
    for (const streak of streaks) {
      const du = Math.abs(u - streak.u);
      const across = Math.min(du, 1 - du) / (streak.width * (1 + 0.4 * fine));
      const down = streak.top - v;
      if (across > 1 || down < 0 || down > streak.length) continue;
      run = Math.max(run, (1 - across) * (1 - down / streak.length) * 0.9);
    }
    const bare = smoothstep(0.5, 0.62, large + 0.1 * fine) * chip;
    const grime = smoothstep(0.1, 0.6, fractal(noise, u, v + 0.4, 9, 9, 4)) * 0.35 + wet * 0.3;
    const paintColour: Colour = v > 0.8 && v < 0.9 ? [0.86, 0.83, 0.76] : [0.72, 0.09, 0.07];
    const rustTone = 0.5 + 0.5 * fractal(noise, u + 0.2, v + 0.7, 30, 30, 4);
    setColour(out, paintColour, [0.3, 0.24, 0.15], grime * 0.55, 1 + 0.05 * fine);
    cover(out, 0.48, 0.22, 0.08, run * 0.75);
    cover(out, mix(0.26, 0.55, rustTone), mix(0.12, 0.28, rustTone), mix(0.06, 0.1, rustTone), chip);
    cover(out, 0.58, 0.57, 0.56, bare);
    out.metalness = bare;
    out.roughness = mix(mix(0.34 + grime * 0.35 + run * 0.3, 0.86, chip), 0.38, bare) + 0.03 * fine;
    const blister = smoothstep(0.06, 0.2, large) * (1 - chip) * 0.14;
    out.height = mix(0.62 + blister + 0.02 * fine, 0.42 + 0.14 * rustTone, chip) - bare * 0.04;
    out.occlusion = 1 - 0.3 * chip * (1 - bare) * rustTone - 0.2 * wet * 0.5;
  };
}

/** Laid rope wound around: strands run slantwise, with fibres. u follows the rope. */
export function rope(seed: number): Painter {
  const noise = createNoise(seed);
  return (u, v, out) => {
    const strand = (((u * 10 + v * 2) % 1) + 1) % 1;
    const round = Math.sqrt(Math.max(0, 1 - (strand * 2 - 1) ** 2));
    const fibre = noise(u * 1 + v * 0.2, v, 16, 128) * 0.5 + fractal(noise, u, v, 64, 64, 2) * 0.5;
    const dirt = smoothstep(0, 0.6, fractal(noise, u, v, 4, 4, 4));
    setColour(
      out,
      [0.72, 0.58, 0.38],
      [0.42, 0.33, 0.22],
      dirt * 0.6 + (1 - round) * 0.4,
      0.85 + 0.18 * round + 0.1 * fibre,
    );
    out.metalness = 0;
    out.roughness = 0.86 + 0.08 * fibre;
    out.height = round * 0.8 + 0.06 * fibre;
    out.occlusion = 0.45 + 0.55 * smoothstep(0, 0.6, round);
  };
}

/** Black rubber with scuffs and salt. */
export function rubber(seed: number): Painter {
  const noise = createNoise(seed);
  return (u, v, out) => {
    const scuff = smoothstep(0.2, 0.7, fractal(noise, u, v, 8, 8, 5));
    const grain = fractal(noise, u, v, 96, 96, 2);
    setColour(out, [0.13, 0.13, 0.135], [0.29, 0.28, 0.26], scuff, 1 + 0.2 * grain);
    out.metalness = 0;
    out.roughness = 0.6 + 0.25 * scuff + 0.05 * grain;
    out.height = 0.5 + 0.1 * grain - 0.1 * scuff;
    out.occlusion = 1;
  };
}
