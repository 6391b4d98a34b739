/**
 * Roughness of a specular exponent: alpha = sqrt(2 / (Ns + 2)), roughness = sqrt(alpha), since alpha is roughness
 * squared. Ns 0 gives 1; the result falls towards 0 as Ns grows. Source: the Blinn-Phong to Beckmann equivalence
 * Ns = 2 / alpha^2 - 2.
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
