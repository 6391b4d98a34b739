/** What dielectrics reflect. */
const PLAIN = 0.04;

/**
 * Of colours by diffuse and specular: the appendix of KHR_materials_pbrSpecularGlossiness has
 * metalness from how bright both are, the colour from the two, mixed by its square.
 */
export function metalOf(
  diffuse: readonly number[],
  specular: readonly number[],
): { base: number[]; metallic: number } {
  const bright = ([r, g, b]: readonly number[]) => Math.sqrt(0.299 * r * r + 0.587 * g * g + 0.114 * b * b);
  const rest = 1 - Math.max(...specular);
  const reflected = bright(specular);
  const b = (bright(diffuse) * rest) / (1 - PLAIN) + reflected - 2 * PLAIN;
  const root = Math.sqrt(Math.max(0, b * b - 4 * PLAIN * (PLAIN - reflected)));
  const metallic = reflected < PLAIN ? 0 : Math.min(1, Math.max(0, (root - b) / (2 * PLAIN)));
  const base = diffuse.map((component, k) => {
    const byDiffuse = (component * rest) / (1 - PLAIN) / Math.max(1 - metallic, 1e-6);
    const bySpecular = (specular[k] - PLAIN * (1 - metallic)) / Math.max(metallic, 1e-6);
    return Math.min(1, Math.max(0, byDiffuse + (bySpecular - byDiffuse) * metallic ** 2));
  });
  return { base, metallic };
}
