import type { Material } from './material.ts';

/**
 * Roughness of a specular exponent: alpha = sqrt(2 / (Ns + 2)), roughness = sqrt(alpha), since alpha is
 * roughness squared. Ns 0 gives 1; the result falls towards 0 as Ns grows. Source: the Blinn-Phong to
 * Beckmann equivalence Ns = 2 / alpha^2 - 2.
 */
export function roughnessOfExponent(exponent: number): number {
  return Math.sqrt(Math.sqrt(2 / (Math.max(0, exponent) + 2)));
}

/** The exponent of a roughness in (0, 1]: Ns = 2 / roughness^4 - 2. */
export function exponentOfRoughness(roughness: number): number {
  return 2 / Math.max(1e-3, roughness) ** 4 - 2;
}

/** Reflectance at normal incidence of a dielectric: ((n - 1) / (n + 1))^2. */
export function reflectanceOfIndex(ior: number): number {
  return ((ior - 1) / (ior + 1)) ** 2;
}

/** Below this roughness exponents grow past what classic shaders take (about 20,000). */
const SMOOTHEST = 0.1;

/**
 * Roughness of a material's values: its own, else from glossiness, else from a classic exponent; 1 where
 * nothing tells.
 */
export function roughnessOfMaterial({ channels, exponent }: Pick<Material, 'channels' | 'exponent'>): number {
  const number = ({ value }: { value: number | readonly number[] }) =>
    typeof value === 'number' ? value : value[0];
  if (channels.roughness) return number(channels.roughness);
  if (channels.glossiness) return 1 - number(channels.glossiness);
  return exponent === null ? 1 : roughnessOfExponent(exponent);
}

/**
 * The roughness that a classic reader gets where the material's own is smoother than exponents go; null where
 * it is not.
 */
export function flooredRoughness(material: Pick<Material, 'channels' | 'exponent'>): number | null {
  const { channels, exponent } = material;
  if (exponent !== null && !channels.roughness && !channels.glossiness) return null;
  if ((channels.roughness ?? channels.glossiness)?.map) return null;
  return roughnessOfMaterial(material) < SMOOTHEST - 1e-6 ? SMOOTHEST : null;
}

/**
 * The exponent that a classic reader is given: of the roughness or glossiness where the material has one,
 * else its own.
 */
export function exponentOfMaterial(material: Pick<Material, 'channels' | 'exponent'>): number {
  const { channels, exponent } = material;
  if (exponent !== null && !channels.roughness && !channels.glossiness) return exponent;
  return exponentOfRoughness(Math.max(SMOOTHEST, roughnessOfMaterial(material)));
}
