import type { Vec3 } from './document.ts';

/** Where the polynomials hold, in kelvin. */
const RANGE = [1667, 25_000] as const;
/** Of 1/T to powers of 3 to 0, for x up to 4000 K and above. */
const X_COOL = [-0.2661239e9, -0.2343589e6, 0.8776956e3, 0.17991];
const X_HOT = [-3.0258469e9, 2.1070379e6, 0.2226347e3, 0.24039];
/** Of x to powers of 3 to 0, for y up to 2222 K, up to 4000 K and above. */
const Y_COOLEST = [-1.1063814, -1.3481102, 2.18555832, -0.20219683];
const Y_COOL = [-0.9549476, -1.37418593, 2.09137015, -0.16748867];
const Y_HOT = [3.081758, -5.8733867, 3.75112997, -0.37001483];

/**
 * The light of what glows at a temperature in kelvin: linear Rec.709 of luminance 1, cut at 0, as UsdLux wants it.
 * The chromaticity is that of the cubic fit to Planck's locus by Kim et al. (2002), within 0.002 of it.
 */
export function lightOfTemperature(kelvin: number): Vec3 {
  const t = Math.min(RANGE[1], Math.max(RANGE[0], kelvin));
  const x = polynomial(t <= 4000 ? X_COOL : X_HOT, 1 / t);
  const warm = t <= 2222 ? Y_COOLEST : Y_COOL;
  const y = polynomial(t <= 4000 ? warm : Y_HOT, x);
  const [tx, tz] = [x / y, (1 - x - y) / y];
  return [
    3.2404542 * tx - 1.5371385 - 0.4985314 * tz,
    -0.969266 * tx + 1.8760108 + 0.041556 * tz,
    0.0556434 * tx - 0.2040259 + 1.0572252 * tz,
  ].map((component) => Math.max(0, component)) as Vec3;
}

function polynomial(factors: readonly number[], value: number): number {
  return factors.reduce((sum, factor) => sum * value + factor, 0);
}
