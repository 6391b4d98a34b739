import { type PixelBuffer, unitOf } from '../images/pixelBuffer.ts';
import type { MetalRough } from '../materials/metalRough.ts';

/** x, y and z, or red, green and blue. */
export type Vec = [number, number, number];

/** An image in light, three numbers a pixel. */
export interface Texture {
  width: number;
  height: number;
  data: Float32Array;
}

/** An image in linear Rec.709, by UV tile; an image without tiles stands under 0 and repeats. */
export type Picture = Map<number, Texture>;

/** A material as the picture shows it, with what is the same all over it worked out once. */
export interface Surface {
  baseColor: Picture | null;
  emission: Picture | null;
  colour: readonly number[];
  glow: readonly number[];
  metal: number;
  /** Of the highlight, and how bright it is at its middle. */
  exponent: number;
  glint: number;
  opacity: number;
  /** Whether what lies behind it is seen. */
  clear: boolean;
  /** Whether colours of points are seen on it. */
  painted: boolean;
}

/** A place on a surface: both directions have length 1. */
export interface Lit {
  n: Float64Array;
  view: Float64Array;
  u: number;
  v: number;
  /** What multiplies the base colour there. */
  paint: Float64Array;
}

/** What a small picture needs of a material; a map that is not decoded counts as its usual middle. */
export function surfaceOf(
  shading: MetalRough,
  { baseColor, emission, painted }: Pick<Surface, 'baseColor' | 'emission' | 'painted'>,
): Surface {
  const rough = Math.min(1, shading.roughness.value * (shading.roughness.map ? 0.5 : 1));
  const exponent = 2 / Math.max(0.02, rough ** 4) - 1;
  return {
    baseColor,
    emission,
    painted,
    colour: shading.baseColor.value,
    glow: shading.emission.value,
    metal: Math.min(1, shading.metalness.value * (shading.metalness.map ? 0.8 : 1)),
    exponent,
    glint: Math.min(4, exponent / 12 + 0.3),
    opacity: opacityOf(shading),
    clear: shading.alphaMode === 'blend' || shading.transmission.value > 0,
  };
}

function opacityOf({ alphaMode, transmission, opacity }: MetalRough): number {
  if (alphaMode !== 'blend') return 1 - 0.75 * Math.min(1, transmission.value);
  return Math.min(1, Math.max(0, opacity.value));
}

/** Grey repeats in all three, and alpha is left out. */
export function textureOf({ width, height, components, data }: PixelBuffer): Texture {
  const unit = unitOf(data);
  const out = new Float32Array(width * height * 3);
  for (let i = 0; i < width * height; i += 1)
    for (let k = 0; k < 3; k += 1) out[i * 3 + k] = data[i * components + (components < 3 ? 0 : k)] / unit;
  return { width, height, data: out };
}

const LAMP = unitInto(Float64Array.of(0.55, 0.75, 0.6));
const WHITE: Texture = { width: 1, height: 1, data: Float32Array.of(1, 1, 1) };

/** Light that a place sends to the eye: soft sky, one lamp, and what a mirror would see of the sky. */
export function shadeInto(out: Float64Array, surface: Surface, { n, view, u, v, paint }: Lit): void {
  const { colour, glow, metal } = surface;
  const facing = n[0] * view[0] + n[1] * view[1] + n[2] * view[2];
  const turn = facing < 0 ? -1 : 1;
  const x = turn * n[0];
  const y = turn * n[1];
  const z = turn * n[2];
  const lamp = Math.max(0, x * LAMP[0] + y * LAMP[1] + z * LAMP[2]);
  const hx = LAMP[0] + view[0];
  const hy = LAMP[1] + view[1];
  const hz = LAMP[2] + view[2];
  const half = (x * hx + y * hy + z * hz) / (Math.sqrt(hx * hx + hy * hy + hz * hz) || 1);
  const glint = lamp > 0 && half > 0 ? half ** surface.exponent * surface.glint * lamp : 0;
  const reflect = 2 * Math.abs(facing) * y - view[1];
  const mirror = 0.25 + 0.75 * Math.max(0, Math.min(1, reflect * 0.8 + 0.5)) ** 2;
  const diffuse = (1 - metal) * (lamp * 0.85 + (0.5 + 0.5 * y) * 0.4);
  const base = textureAt(surface.baseColor, u, v);
  const light = textureAt(surface.emission, u, v);
  const from = pixelOf(base, u, v);
  const lit = pixelOf(light, u, v);
  for (let k = 0; k < 3; k += 1) {
    const albedo = base.data[from + k] * colour[k] * paint[k];
    const f0 = 0.04 * (1 - metal) + albedo * metal;
    out[k] = albedo * diffuse + f0 * (glint + mirror) + light.data[lit + k] * glow[k];
  }
}

function textureAt(picture: Picture | null, u: number, v: number): Texture {
  if (!picture) return WHITE;
  // v grows downwards here; tiles are counted upwards.
  return picture.get(0) ?? picture.get(1001 + Math.floor(u) + 10 * Math.floor(1 - v)) ?? WHITE;
}

function pixelOf({ width, height }: Texture, u: number, v: number): number {
  const x = Math.min(width - 1, Math.floor((u - Math.floor(u)) * width));
  const y = Math.min(height - 1, Math.floor((v - Math.floor(v)) * height));
  return (y * width + x) * 3;
}

/** Brings a direction to length 1 where it stands. */
export function unitInto(v: Float64Array): Float64Array {
  const length = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]) || 1;
  v[0] /= length;
  v[1] /= length;
  v[2] /= length;
  return v;
}
