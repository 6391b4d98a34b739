/** 16-bit floats as numbers, IEEE 754 binary16. */
export function halfToNumber(bits: number): number {
  const sign = bits & 0x8000 ? -1 : 1;
  const exponent = (bits >> 10) & 31;
  const fraction = bits & 1023;
  if (exponent === 0) return sign * fraction * 2 ** -24;
  if (exponent === 31) return fraction ? Number.NaN : sign * Infinity;
  return sign * (1 + fraction / 1024) * 2 ** (exponent - 15);
}

const scratch = new Float32Array(1);
const scratchBits = new Uint32Array(scratch.buffer);

/** The nearest 16-bit float, ties to even; too large becomes infinite. */
export function numberToHalf(value: number): number {
  scratch[0] = value;
  const x = scratchBits[0];
  const sign = (x >>> 16) & 0x8000;
  const magnitude = x & 0x7fffffff;
  if (magnitude >= 0x7f800000) return sign | 0x7c00 | (magnitude > 0x7f800000 ? 0x200 : 0);
  if (magnitude >= 0x477ff000) return sign | 0x7c00;
  if (magnitude < 0x38800000) {
    const tiny = Math.abs(scratch[0]) * 2 ** 24;
    const floor = Math.floor(tiny);
    const rest = tiny - floor;
    return sign | (rest > 0.5 || (rest === 0.5 && floor % 2 === 1) ? floor + 1 : floor);
  }
  const rounded = magnitude + 0xfff + ((magnitude >> 13) & 1);
  return sign | ((rounded - 0x38000000) >> 13);
}
