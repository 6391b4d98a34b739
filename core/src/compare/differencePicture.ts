import { heatPicture } from '../images/heat.ts';
import type { PixelBuffer } from '../images/pixelBuffer.ts';
import { type FieldPair, shownAt } from './compareMaterials.ts';

/** What of a pair is drawn. */
export type PairPicture = 'a' | 'b' | 'difference';

/**
 * Draws one side of a pair as people see it, or the difference times `scale` in colours from dark (none) to
 * white.
 */
export function differencePicture({ aspect, a, b }: FieldPair, what: PairPicture, scale = 1): PixelBuffer {
  const { width, height, size } = a;
  const count = width * height;
  const { kind } = aspect;
  const largest = kind === 'length' ? lengthOf(a.values, b.values) : 1;
  if (what !== 'difference') {
    const data = new Uint8Array(count * 3);
    const side = what === 'a' ? a : b;
    for (let i = 0; i < count; i += 1) {
      const numbers = shownAt(side, i, kind);
      for (let k = 0; k < 3; k += 1)
        data[i * 3 + k] = Math.round(255 * Math.min(1, Math.max(0, numbers[size === 3 ? k : 0] / largest)));
    }
    return { width, height, components: 3, data };
  }
  const data = new Uint8Array(count);
  for (let i = 0; i < count; i += 1) {
    const [first, second] = [shownAt(a, i, kind), shownAt(b, i, kind)];
    const apart = Math.max(...first.map((value, k) => Math.abs(value - second[k]))) / largest;
    data[i] = Math.round(255 * Math.min(1, apart * scale));
  }
  return heatPicture({ width, height, components: 1, data });
}

function lengthOf(...all: Float32Array[]): number {
  let largest = 0;
  for (const values of all) for (const value of values) largest = Math.max(largest, Math.abs(value));
  return largest || 1;
}
