import type { AlphaMode, ChannelName, Rgb } from '../scene/material.ts';

/**
 * Changes to a model in its own format: everything else in the file stays as it is. Images are named by the
 * path that the model wrote, materials by their stable key.
 */
export interface ModelPatch {
  images: { written: string; path: string }[];
  values: { material: string; channel: ChannelName; value: number | Rgb }[];
  sides: { material: string; doubleSided: boolean }[];
  alphas: { material: string; mode: AlphaMode; cutoff: number }[];
}

/** A source file with changes written into it, and what could not be. */
export interface Patched {
  /** The model's files that changed, by path; the model first. */
  files: Map<string, Uint8Array>;
  /** What the format has no place for, in words. */
  missed: string[];
}

/** A patch that changes nothing. */
export function emptyPatch(): ModelPatch {
  return { images: [], values: [], sides: [], alphas: [] };
}

/** Whether a patch changes nothing. */
export function isEmptyPatch({ images, values, sides, alphas }: ModelPatch): boolean {
  return images.length + values.length + sides.length + alphas.length === 0;
}

/** Keys of materials in order of their names: the second `Paint` is `Paint (2)`. */
export function createKeyer(): (name: string) => string {
  const seen = new Map<string, number>();
  return (name) => {
    const count = (seen.get(name) ?? 0) + 1;
    seen.set(name, count);
    return count === 1 ? name : `${name} (${count})`;
  };
}
