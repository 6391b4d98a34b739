import type { UvTransform } from './material.ts';

/**
 * A UV transform for v growing upwards as KHR_texture_transform, where v grows downwards. With F(u, v) = (u,
 * 1 - v), F R S F has the same scale and, in that extension's sense of rotation, the same angle.
 */
export function toGltfTransform({ offset, scale, rotation }: UvTransform): UvTransform {
  return {
    offset: [offset[0] - Math.sin(rotation) * scale[1], 1 - offset[1] - Math.cos(rotation) * scale[1]],
    scale,
    rotation,
  };
}

/** The inverse of {@link toGltfTransform}. */
export function fromGltfTransform({ offset, scale, rotation }: UvTransform): UvTransform {
  return {
    offset: [offset[0] + Math.sin(rotation) * scale[1], 1 - offset[1] - Math.cos(rotation) * scale[1]],
    scale,
    rotation,
  };
}

/** Where a UV lies after its transform. */
export function transformUv(transform: UvTransform | null, u: number, v: number): [number, number] {
  if (!transform) return [u, v];
  const { offset, scale, rotation } = transform;
  const [x, y] = [u * scale[0], v * scale[1]];
  const [cos, sin] = [Math.cos(rotation), Math.sin(rotation)];
  return [cos * x - sin * y + offset[0], sin * x + cos * y + offset[1]];
}
