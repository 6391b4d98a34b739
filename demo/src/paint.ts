import sharp from 'sharp';
import { imageSize } from './scale.ts';

/** What a painter says of one point of a surface. Colours are sRGB numbers in 0..1, the rest linear 0..1. */
export interface Texel {
  r: number;
  g: number;
  b: number;
  roughness: number;
  metalness: number;
  height: number;
  occlusion: number;
}

/** Writes what a texel at u, v is like. */
export type Painter = (u: number, v: number, out: Texel) => void;

/** A painted surface: every quantity as a plane of `size` squared numbers, top row first. */
export interface PaintedMaps {
  size: number;
  /** Texels of the size it is meant to have, for one of these. */
  finer: number;
  colour: Float32Array;
  roughness: Float32Array;
  metalness: Float32Array;
  height: Float32Array;
  occlusion: Float32Array;
}

/** Paints the maps of a material, `meant` texels a side unless the harbour is made coarser. */
export function paint(meant: number, painter: Painter): PaintedMaps {
  const size = imageSize(meant);
  const count = size * size;
  const maps: PaintedMaps = {
    size,
    finer: meant / size,
    colour: new Float32Array(count * 3),
    roughness: new Float32Array(count),
    metalness: new Float32Array(count),
    height: new Float32Array(count),
    occlusion: new Float32Array(count),
  };
  const texel: Texel = { r: 0, g: 0, b: 0, roughness: 0.5, metalness: 0, height: 0.5, occlusion: 1 };
  for (let y = 0, i = 0; y < size; y += 1) {
    for (let x = 0; x < size; x += 1, i += 1) {
      painter((x + 0.5) / size, 1 - (y + 0.5) / size, texel);
      maps.colour[i * 3] = texel.r;
      maps.colour[i * 3 + 1] = texel.g;
      maps.colour[i * 3 + 2] = texel.b;
      maps.roughness[i] = texel.roughness;
      maps.metalness[i] = texel.metalness;
      maps.height[i] = texel.height;
      maps.occlusion[i] = texel.occlusion;
    }
  }
  return maps;
}

/**
 * Tangent-space normals from the height, green up (Y+). `meant` is the height of 1 in texels of the
 * size it is meant to have.
 * Slopes are central differences; the surface repeats at its borders.
 */
export function normalsFromHeight({ size, finer, height }: PaintedMaps, meant: number): Float32Array {
  const strength = meant / finer;
  const out = new Float32Array(size * size * 3);
  const at = (x: number, y: number) => height[((y + size) % size) * size + ((x + size) % size)];
  for (let y = 0, i = 0; y < size; y += 1) {
    for (let x = 0; x < size; x += 1, i += 3) {
      const dx = ((at(x + 1, y) - at(x - 1, y)) / 2) * strength;
      const dy = ((at(x, y - 1) - at(x, y + 1)) / 2) * strength;
      const length = Math.hypot(dx, dy, 1);
      out[i] = (-dx / length) * 0.5 + 0.5;
      out[i + 1] = (-dy / length) * 0.5 + 0.5;
      out[i + 2] = (1 / length) * 0.5 + 0.5;
    }
  }
  return out;
}

/** Planes side by side as r, g, b. */
export function packPlanes(...planes: Float32Array[]): Float32Array {
  const out = new Float32Array(planes[0].length * planes.length);
  planes.forEach((plane, offset) => {
    for (let i = 0; i < plane.length; i += 1) out[i * planes.length + offset] = plane[i];
  });
  return out;
}

/** One minus each value. */
export function inverted(plane: Float32Array): Float32Array {
  return plane.map((value) => 1 - value);
}

/** A square 8-bit PNG of 1 or 3 components from numbers in 0..1. */
export async function toPng(values: Float32Array, components: 1 | 3): Promise<Uint8Array> {
  const size = Math.sqrt(values.length / components);
  const bytes = Uint8Array.from(values, (value) => Math.round(Math.min(1, Math.max(0, value)) * 255));
  const image = sharp(bytes, { raw: { width: size, height: size, channels: components } });
  return new Uint8Array(
    await (components === 1 ? image.toColourspace('b-w') : image).png({ compressionLevel: 6 }).toBuffer(),
  );
}
