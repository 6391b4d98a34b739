import { DecodedImages } from '../images/decodedImages.ts';
import type { Reading } from './channelField.ts';
import { type CompareOptions, compareMaterials } from './compareMaterials.ts';
import type { MaterialDifference } from './verdict.ts';

/** A material on both sides. */
export interface MaterialPair {
  /** The asset's own key. */
  key: string;
  a: string;
  b: string;
}

/** Compares the materials of two readings, pair by pair; each is told when it is done. */
export async function compareReadings(
  a: Reading,
  b: Reading,
  pairs: readonly MaterialPair[],
  options: CompareOptions & { progress?: (done: number, total: number) => void } = {},
): Promise<MaterialDifference[]> {
  const out: MaterialDifference[] = [];
  const decoded = options.decoded ?? new DecodedImages();
  for (const [i, { key, a: keyA, b: keyB }] of pairs.entries()) {
    options.progress?.(i, pairs.length);
    const [first, second] = [
      a.materials.find((material) => material.key === keyA),
      b.materials.find((material) => material.key === keyB),
    ];
    if (first && second)
      out.push({
        material: key,
        channels: await compareMaterials(
          { material: first, reading: a },
          { material: second, reading: b },
          { ...options, decoded },
        ),
      });
  }
  return out;
}
