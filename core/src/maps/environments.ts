import type { Vec3 } from '../scene/document.ts';
import { decodeSrgb } from '../scene/transfer.ts';
import { cross, dot, normalised } from '../scene/vectors.ts';

/** A lamp surface: where it stands, how large it is, how bright (1 is white paper). */
interface SoftBox {
  at: Vec3;
  size: Vec3;
  light: number;
  tint: string;
}

interface Environment {
  title: string;
  /** The linear light from a direction of length 1, Y up. */
  sky(d: Vec3): Vec3;
  boxes: readonly SoftBox[];
}

const STUDIO: Environment = {
  title: 'Soft studio',
  sky: ([, y]) => {
    const up = y * 0.5 + 0.5;
    return mix(
      mix([0.2, 0.19, 0.17], [0.46, 0.45, 0.42], smoothstep(0.38, 0.54, up)),
      [0.78, 0.78, 0.76],
      smoothstep(0.5, 0.95, up),
    );
  },
  boxes: [
    { at: [0, 9.2, 0], size: [9, 0.1, 6], light: 5, tint: '#fff6e6' },
    { at: [-8.6, 3.6, 3], size: [0.1, 5, 4], light: 7, tint: '#fff1da' },
    { at: [8.8, 2.6, 1.5], size: [0.1, 6, 2], light: 4.5, tint: '#eaf3ff' },
    { at: [2, 2.8, -9], size: [7, 1.6, 0.1], light: 4, tint: '#ffffff' },
    { at: [-2, 1.4, 9.4], size: [3, 1.2, 0.1], light: 2.2, tint: '#fff6e6' },
  ],
};

/** Overcast: luminance (1 + 2 sin elevation) / 3 of the zenith's, the CIE standard overcast sky. */
const OVERCAST: Environment = {
  title: 'Overcast',
  sky: ([x, y, z]) => {
    const cloud = 0.5 + 0.5 * Math.sin(x * 9 + 2 * Math.sin(z * 7)) * Math.sin(z * 8 + y * 5);
    const high = (2.4 * (1 + 2 * y) * (0.92 + 0.08 * cloud)) / 3;
    const light: Vec3 =
      y > 0
        ? [0.86 * high, 0.93 * high, high]
        : mix([0.26, 0.28, 0.27], [0.13, 0.14, 0.13], Math.min(1, -y * 2));
    return mix(light, [0.62, 0.68, 0.72], smoothstep(0.03, 0, Math.abs(y)));
  },
  boxes: [],
};

const SUN = normalised([0.55, 0.2, 0.81]);

const LOW_SUN: Environment = {
  title: 'Low sun',
  sky: (d) => {
    const [, y] = d;
    const towards = d[0] * SUN[0] + y * SUN[1] + d[2] * SUN[2];
    const glow = mix([0.62, 0.62, 0.72], [1.2, 0.66, 0.34], (towards * 0.5 + 0.5) ** 3);
    const light =
      y > 0
        ? mix(glow, [0.2, 0.36, 0.66], Math.min(1, y * 1.4) ** 0.7)
        : mix([0.36, 0.3, 0.25], [0.16, 0.14, 0.12], Math.min(1, -y * 3));
    const near = Math.max(towards, 0);
    const haze = y >= -0.02 ? 1.2 * near ** 8 + 4 * near ** 120 : 0;
    const disc = 260 * smoothstep(0.9984, 0.9994, near);
    return [
      light[0] + haze + disc,
      light[1] + 0.55 * haze + 0.74 * disc,
      light[2] + 0.22 * haze + 0.45 * disc,
    ];
  },
  boxes: [],
};

const WORKSHOP: Environment = {
  title: 'Workshop',
  sky: ([x, y, z]) => {
    const up = y * 0.5 + 0.5;
    const around = Math.atan2(x, z) * 3.8;
    const wall: Vec3 = around - Math.floor(around) >= 0.93 ? [0.12, 0.085, 0.06] : [0.22, 0.16, 0.11];
    return mix(
      mix([0.09, 0.075, 0.06], wall, smoothstep(0.36, 0.5, up)),
      [0.14, 0.11, 0.085],
      smoothstep(0.72, 0.9, up),
    );
  },
  boxes: [
    { at: [-9.6, 3.2, -1.6], size: [0.1, 3.2, 2.2], light: 9, tint: '#dcecff' },
    { at: [-9.6, 3.2, 1.6], size: [0.1, 3.2, 2.2], light: 9, tint: '#dcecff' },
    { at: [3.2, 6.4, 0.6], size: [0.6, 0.1, 0.6], light: 42, tint: '#ffc98a' },
    { at: [-2.4, 6.4, 3.8], size: [0.6, 0.1, 0.6], light: 34, tint: '#ffc98a' },
    { at: [8.4, 1.8, -5.2], size: [1.6, 2.6, 0.1], light: 1.6, tint: '#ffe2bb' },
  ],
};

/** Environments that are computed, by key. */
export const ENVIRONMENTS = {
  studio: STUDIO,
  overcast: OVERCAST,
  lowSun: LOW_SUN,
  workshop: WORKSHOP,
} as const;

/** Key of an environment that is computed here. */
export type EnvironmentKey = keyof typeof ENVIRONMENTS;

/** Whether a key names an environment that is computed here. */
export function isEnvironmentKey(key: string): key is EnvironmentKey {
  return Object.hasOwn(ENVIRONMENTS, key);
}

/**
 * A computed environment in latitude and longitude: linear RGB, rows from the zenith, longitudes as three.js
 * has them (+X in the middle, +Z a quarter to the right of it), `samples` squared of them per texel.
 */
export function drawEnvironment(
  key: EnvironmentKey,
  width = 1024,
  samples = 1,
): { width: number; height: number; data: Float32Array } {
  const { sky, boxes } = ENVIRONMENTS[key];
  const placed = boxes.map(placeBox);
  const height = width / 2;
  const data = new Float32Array(width * height * 3);
  for (let row = 0; row < height * samples; row += 1) {
    const latitude = Math.PI * (0.5 - (row + 0.5) / (height * samples));
    const [y, flat] = [Math.sin(latitude), Math.cos(latitude)];
    for (let column = 0; column < width * samples; column += 1) {
      const longitude = 2 * Math.PI * ((column + 0.5) / (width * samples) - 0.5);
      const d: Vec3 = [flat * Math.cos(longitude), y, flat * Math.sin(longitude)];
      const light = nearestBox(placed, d) ?? sky(d);
      const texel = (Math.floor(row / samples) * width + Math.floor(column / samples)) * 3;
      for (let component = 0; component < 3; component += 1)
        data[texel + component] += light[component] / samples ** 2;
    }
  }
  return { width, height, data };
}

/**
 * The mean radiance of a picture in latitude and longitude, by the sky that each texel covers; `valueAt`
 * gives a number of its list. Of large pictures every so manieth texel is looked at.
 */
export function meanRadiance(
  width: number,
  height: number,
  components: number,
  valueAt: (index: number) => number,
): number {
  const step = Math.max(1, Math.floor(width / 512));
  let [sum, sky] = [0, 0];
  for (let row = 0; row < height; row += step) {
    const covered = Math.cos(Math.PI * (0.5 - (row + 0.5) / height));
    for (let column = 0; column < width; column += step) {
      const at = (row * width + column) * components;
      const light = 0.2126 * valueAt(at) + 0.7152 * valueAt(at + 1) + 0.0722 * valueAt(at + 2);
      if (!(light >= 0 && Number.isFinite(light))) continue;
      sum += light * covered;
      sky += covered;
    }
  }
  return sky > 0 ? sum / sky : 0;
}

/** A box as rays meet it: its axes and its middle along them, half its size, its light. */
interface PlacedBox {
  axes: [Vec3, Vec3, Vec3];
  middle: Vec3;
  half: Vec3;
  light: Vec3;
}

/** Boxes that are thin in depth face the middle of the room; the others stand along its axes. */
function placeBox({ at, size, light, tint }: SoftBox): PlacedBox {
  const faces = size[0] >= 0.2 && size[1] >= 0.2;
  const back = faces ? normalised(at.map((value) => -value) as Vec3) : ([0, 0, 1] as Vec3);
  const right = faces ? normalised([back[2], 0, -back[0]]) : ([1, 0, 0] as Vec3);
  const axes: PlacedBox['axes'] = [right, cross(back, right), back];
  const colour = [1, 3, 5].map(
    (start) => light * decodeSrgb(Number.parseInt(tint.slice(start, start + 2), 16) / 255),
  ) as Vec3;
  return {
    axes,
    middle: axes.map((axis) => dot(axis, at)) as Vec3,
    half: size.map((value) => value / 2) as Vec3,
    light: colour,
  };
}

/** The light of the box that a ray from the middle of the room meets first; null where it meets none. */
function nearestBox(boxes: readonly PlacedBox[], d: Vec3): Vec3 | null {
  let nearestHit: Vec3 | null = null;
  let nearest = Number.POSITIVE_INFINITY;
  for (const { axes, middle, half, light } of boxes) {
    let enter = 0;
    let leave = nearest;
    for (let k = 0; k < 3; k += 1) {
      const step = dot(axes[k], d);
      const [near, far] = [(middle[k] - half[k]) / step, (middle[k] + half[k]) / step];
      enter = Math.max(enter, Math.min(near, far));
      leave = Math.min(leave, Math.max(near, far));
    }
    if (enter >= leave) continue;
    nearestHit = light;
    nearest = enter;
  }
  return nearestHit;
}

function mix(from: Vec3, to: Vec3, share: number): Vec3 {
  return [
    from[0] + (to[0] - from[0]) * share,
    from[1] + (to[1] - from[1]) * share,
    from[2] + (to[2] - from[2]) * share,
  ];
}

function smoothstep(from: number, to: number, value: number): number {
  const share = Math.min(1, Math.max(0, (value - from) / (to - from)));
  return share * share * (3 - 2 * share);
}
