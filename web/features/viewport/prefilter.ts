import { PMREMGenerator, type ShaderMaterial, type WebGLRenderer } from 'three';

/** Directions that are looked up for each texel of a rougher level; three takes 256. */
const SAMPLES = 32;
/**
 * Each of them stands for so much more of the sky, and is taken from levels of the source that are so much
 * smaller.
 */
const LEVELS = 0.5 * Math.log2(256 / SAMPLES);

const PIECES = [
  [/#define GGX_SAMPLES 256u/, `#define GGX_SAMPLES ${SAMPLES}u`],
  [/max\( log2\( d \) \+ lodBias, 0\.0 \)/, `max( log2( d ) + lodBias + ${LEVELS.toFixed(2)}, 0.0 )`],
] as const;

/**
 * The shader of three's filter with fewer, wider samples; as it is where it is not the shader that is known
 * here.
 */
export function withFewerSamples(shader: string): string {
  if (!PIECES.every(([piece]) => piece.test(shader))) return shader;
  return PIECES.reduce((text, [piece, other]) => text.replace(piece, other), shader);
}

/**
 * Filters surroundings for lighting. Where no graphics card draws, three's own way takes six seconds of two
 * cores before anything is seen; the sources here are smooth, and an eighth of its samples shows the same.
 */
export function prefilterOf(renderer: WebGLRenderer): PMREMGenerator {
  const generator = new PMREMGenerator(renderer);
  let kept: ShaderMaterial | null = null;
  Object.defineProperty(generator, '_ggxMaterial', {
    get: () => kept,
    set(material: ShaderMaterial | null) {
      if (material) material.fragmentShader = withFewerSamples(material.fragmentShader);
      kept = material;
    },
  });
  return generator;
}
