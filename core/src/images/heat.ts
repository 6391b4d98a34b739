import type { PixelBuffer } from './pixelBuffer.ts';

/**
 * Codes of the ramp, from nothing to all: bark, sea, honey, brick, paper. Small differences get most of the
 * ramp.
 */
const RAMP = [
  [0, 16, 24, 20],
  [13, 52, 112, 138],
  [51, 216, 148, 42],
  [128, 168, 63, 46],
  [255, 255, 252, 244],
] as const;

/** A plane of 8-bit differences in colours that show small ones. */
export function heatPicture({ width, height, data }: PixelBuffer): PixelBuffer {
  const table = new Uint8Array(256 * 3);
  for (let code = 0; code < 256; code += 1) {
    const next = Math.max(
      1,
      RAMP.findIndex(([place]) => place >= code),
    );
    const [low, high] = [RAMP[next - 1], RAMP[next]];
    const fraction = (code - low[0]) / (high[0] - low[0]);
    for (let k = 0; k < 3; k += 1)
      table[code * 3 + k] = Math.round(low[k + 1] + (high[k + 1] - low[k + 1]) * fraction);
  }
  const out = new Uint8Array(width * height * 3);
  for (let i = 0; i < width * height; i += 1) out.set(table.subarray(data[i] * 3, data[i] * 3 + 3), i * 3);
  return { width, height, components: 3, data: out };
}
