import type { Reading } from './channelField.ts';
import { type ChannelDifference, compareMaterials, type CompareOptions } from './compareMaterials.ts';

/** A material on both sides. */
export interface MaterialPair {
  /** The asset's own key. */
  key: string;
  a: string;
  b: string;
}

export interface MaterialDifference {
  material: string;
  channels: ChannelDifference[];
}

/** Unlit base colours count as equal up to one and a half steps of 8 bits. */
export const ROUNDING = 1.5 / 255;

/** Compares the materials of two readings, pair by pair; each is told when it is done. */
export async function compareReadings(
  a: Reading,
  b: Reading,
  pairs: readonly MaterialPair[],
  options: CompareOptions & { progress?: (done: number, total: number) => void } = {},
): Promise<MaterialDifference[]> {
  const out: MaterialDifference[] = [];
  for (const [i, { key, a: keyA, b: keyB }] of pairs.entries()) {
    options.progress?.(i, pairs.length);
    const [one, two] = [a.materials.find((material) => material.key === keyA), b.materials.find((material) => material.key === keyB)];
    if (one && two) out.push({ material: key, channels: await compareMaterials(one, a, two, b, options) });
  }
  return out;
}

/** Whether the unlit base colours are the same within rounding, and the largest distance found, in 0..1. */
export function baseColourVerdict(differences: readonly MaterialDifference[]): { equal: boolean; largest: number; compared: number } {
  const bases = differences.flatMap(({ channels }) => channels.filter(({ channel }) => channel === 'baseColor'));
  const largest = bases.reduce((most, { largest: one }) => Math.max(most, one), 0);
  return { equal: largest <= ROUNDING, largest, compared: bases.length };
}
