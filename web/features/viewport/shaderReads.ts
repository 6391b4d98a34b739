import { conversionOf } from '@kinkajou/core/colour/spaces';
import { asLine } from '@kinkajou/core/scene/mapUse';
import type { ColourSpace, MapUse } from '@kinkajou/core/scene/material';
import { type IUniform, type Material, Matrix3, ShaderChunk, Vector2, Vector4 } from 'three';

/** How a shader picks a number out of a texel: gain * x + offset, x = dot(texel, mask). */
export const READ_GLSL = `
vec3 kjAdjust(vec3 x, vec2 how) { return x * how.x + how.y; }
vec3 kjPower(vec3 x, float e) { return sign(x) * pow(abs(x), vec3(e)); }
vec3 kjCurve(vec3 x, float gamma) {
  if (gamma == 1.0) return x;
  if (gamma > 0.0) return kjPower(x, gamma);
  vec3 a = abs(x);
  return sign(x) * mix(a / 12.92, pow((a + 0.055) / 1.055, vec3(2.4)), step(vec3(0.04045), a));
}
vec3 kjColour(vec4 texel, vec4 mask, vec2 how, vec2 decode, mat3 primaries) {
  vec3 stored = kjAdjust(mask == vec4(0.0) ? texel.rgb : vec3(dot(texel, mask)), how);
  if (decode.x == 0.0) return stored;
  return primaries * kjCurve(kjPower(stored, decode.x), decode.y);
}
float kjScalar(vec4 texel, vec4 mask, vec2 how) { return kjAdjust(vec3(dot(texel, mask)), how).x; }
`;

interface Read {
  chunk: keyof typeof ShaderChunk;
  from: string;
  to: string;
  vertex?: true;
}

const physical = (from: string, to: string): Read => ({ chunk: 'lights_physical_fragment', from, to });
const scalarOf = (texture: string) => `kjScalar( ${texture}, MASK, HOW )`;
const colourOf = (texture: string) => `kjColour( ${texture}, MASK, HOW, DECODE, PRIMARIES )`;
const SHEEN = 'texture2D( sheenColorMap, vSheenColorMapUv )';
const SPECULAR_COLOUR = 'texture2D( specularColorMap, vSpecularColorMapUv )';
const SPECULAR = 'texture2D( specularIntensityMap, vSpecularIntensityMapUv )';
const COAT = 'texture2D( clearcoatMap, vClearcoatMapUv )';
const COAT_ROUGHNESS = 'texture2D( clearcoatRoughnessMap, vClearcoatRoughnessMapUv )';
const TRANSMISSION = 'texture2D( transmissionMap, vTransmissionMapUv )';

/**
 * Texel reads of three's own shader chunks and what stands in their place, by the channel that they serve.
 */
const READS: Record<string, Read> = {
  baseColor: {
    chunk: 'map_fragment',
    from: 'diffuseColor *= sampledDiffuseColor;',
    to: `diffuseColor.rgb *= ${colourOf('sampledDiffuseColor')};`,
  },
  roughness: { chunk: 'roughnessmap_fragment', from: 'texelRoughness.g', to: scalarOf('texelRoughness') },
  metalness: { chunk: 'metalnessmap_fragment', from: 'texelMetalness.b', to: scalarOf('texelMetalness') },
  occlusion: {
    chunk: 'aomap_fragment',
    from: 'texture2D( aoMap, vAoMapUv ).r',
    to: scalarOf('texture2D( aoMap, vAoMapUv )'),
  },
  opacity: {
    chunk: 'alphamap_fragment',
    from: 'texture2D( alphaMap, vAlphaMapUv ).g',
    to: scalarOf('texture2D( alphaMap, vAlphaMapUv )'),
  },
  emission: {
    chunk: 'emissivemap_fragment',
    from: 'totalEmissiveRadiance *= emissiveColor.rgb;',
    to: `totalEmissiveRadiance *= ${colourOf('emissiveColor')};`,
  },
  sheenColor: physical(`${SHEEN}.rgb`, colourOf(SHEEN)),
  specularColor: physical(`${SPECULAR_COLOUR}.rgb`, colourOf(SPECULAR_COLOUR)),
  specular: physical(`${SPECULAR}.a`, scalarOf(SPECULAR)),
  coat: physical(`${COAT}.x`, scalarOf(COAT)),
  coatRoughness: physical(`${COAT_ROUGHNESS}.y`, scalarOf(COAT_ROUGHNESS)),
  transmission: { chunk: 'transmission_fragment', from: `${TRANSMISSION}.r`, to: scalarOf(TRANSMISSION) },
  height: {
    chunk: 'displacementmap_vertex',
    vertex: true,
    from: 'transformed += normalize( objectNormal ) * ( texture2D( displacementMap, vDisplacementMapUv ).x * displacementScale + displacementBias );',
    // Amounts are distances in the scene, whatever the part's own scale.
    to: `vec3 kjAlong = normalize( objectNormal ); transformed += kjAlong * ( ${scalarOf('texture2D( displacementMap, vDisplacementMapUv )')} * displacementScale + displacementBias ) / max( length( mat3( modelMatrix ) * kjAlong ), 1e-6 );`,
  },
};

const MASKS: Record<MapUse['component'], [number, number, number, number]> = {
  rgb: [0, 0, 0, 0],
  r: [1, 0, 0, 0],
  g: [0, 1, 0, 0],
  b: [0, 0, 1, 0],
  a: [0, 0, 0, 1],
  luminance: [0.2126, 0.7152, 0.0722, 0],
};
const COLOURS = new Set(['baseColor', 'emission', 'sheenColor', 'specularColor']);

/** How each channel reads its image; `decode` where the shader itself turns stored numbers into light. */
export type Reads = Record<string, MapUse & { decode: boolean }>;

export interface PatchOptions {
  /** Numbers come out as they are, without the picture's curve. */
  rawOutput?: boolean;
  /** Green is turned round: a normal that points Y- is shown as Y+. */
  turnGreen?: boolean;
  /**
   * The reflection's own colour takes light from the diffuse: diffuse x (1 - largest of specular), as in
   * spec/gloss.
   */
  specGloss?: boolean;
}

/** Rewrites texel reads so that each channel takes its own component of whatever image it was given. */
export function patchReads(
  material: Material,
  reads: Reads,
  { rawOutput = false, turnGreen = false, specGloss = false }: PatchOptions = {},
): void {
  const channels = Object.keys(reads).filter((channel) => READS[channel]);
  const uniforms: Record<string, IUniform> = {};
  for (const channel of channels) {
    for (const [name, value] of Object.entries(readNumbers(channel, reads[channel])))
      uniforms[`kj_${channel}_${name}`] = { value };
  }
  material.userData.reads = reads;
  material.onBeforeCompile = (shader) => {
    Object.assign(shader.uniforms, uniforms);
    if (specGloss)
      shader.fragmentShader = exchange(shader.fragmentShader, LIGHTS, `${SPEC_GLOSS}\n${LIGHTS}`);
    if (turnGreen)
      shader.fragmentShader = exchange(
        shader.fragmentShader,
        ALPHA,
        `diffuseColor.g = 1.0 - diffuseColor.g;\n${ALPHA}`,
      );
    if (rawOutput)
      shader.fragmentShader = exchange(shader.fragmentShader, '#include <colorspace_fragment>', '');
    shader.fragmentShader = rewrite(
      shader.fragmentShader,
      channels.filter((channel) => !READS[channel].vertex),
    );
    shader.vertexShader = rewrite(
      shader.vertexShader,
      channels.filter((channel) => READS[channel].vertex),
    );
  };
  material.customProgramCacheKey = () =>
    `${channels.join()}${rawOutput ? 'raw' : ''}${turnGreen ? 'turned' : ''}${specGloss ? 'spec' : ''}`;
}

/** Channels whose numbers are a colour of three; the others read one number. */
export function isColourRead(channel: string): boolean {
  return COLOURS.has(channel);
}

/** What {@link READ_GLSL} is given to read a channel: mask, how, decode and primaries. */
export function readNumbers(channel: string, read: Reads[string]) {
  const { component, decode, space, exponent = 1 } = read;
  const { gain, offset } = asLine(read);
  const scalarOfRgb = component === 'rgb' && !COLOURS.has(channel);
  return {
    mask: new Vector4(...MASKS[scalarOfRgb ? 'r' : component]),
    how: new Vector2(gain, offset),
    decode: decode ? new Vector2(exponent, gammaOf(space)) : new Vector2(0, 1),
    primaries: decode ? primariesOf(space) : new Matrix3(),
  };
}

const LIGHTS = '#include <lights_fragment_begin>';
const ALPHA = '#include <alphamap_fragment>';
const SPEC_GLOSS =
  'material.diffuseContribution *= 1.0 - max( max( material.specularColor.r, material.specularColor.g ), material.specularColor.b );';

function rewrite(shader: string, channels: readonly string[]): string {
  if (channels.length === 0) return shader;
  const declared = channels
    .map(
      (channel) =>
        `uniform vec4 kj_${channel}_mask; uniform vec2 kj_${channel}_how; uniform vec2 kj_${channel}_decode; uniform mat3 kj_${channel}_primaries;`,
    )
    .join('\n');
  const chunks = new Map<string, string>();
  for (const channel of channels) {
    const { chunk, from, to } = READS[channel];
    const text = chunks.get(chunk) ?? ShaderChunk[chunk];
    const named = to.replace(/MASK|HOW|DECODE|PRIMARIES/g, (word) => `kj_${channel}_${word.toLowerCase()}`);
    chunks.set(chunk, exchange(text, from, named));
  }
  let source = exchange(shader, '#include <common>', `#include <common>\n${declared}\n${READ_GLSL}`);
  for (const [chunk, text] of chunks) source = exchange(source, `#include <${chunk}>`, text);
  return source;
}

/**
 * Puts one piece of a shader in place of another, which must be there: what is not read would look right and
 * be wrong.
 */
function exchange(shader: string, from: string, to: string): string {
  if (!shader.includes(from))
    throw new Error(`the view cannot read maps: "${from}" is not in this version of the shader`);
  return shader.replace(from, () => to);
}

/** The curve of a space as the shader knows it: an exponent, or 0 for the sRGB curve. */
function gammaOf(space: ColourSpace): number {
  if (space === 'g18_rec709_scene') return 1.8;
  if (space === 'g22_adobergb_scene') return 563 / 256;
  if (space.startsWith('g22_')) return 2.2;
  return space.startsWith('srgb_') ? 0 : 1;
}

/** Linear numbers of a space to linear Rec.709. */
function primariesOf(space: ColourSpace): Matrix3 {
  const { matrix } = conversionOf(space, 'lin_rec709_scene');
  return matrix ? new Matrix3().set(...matrix) : new Matrix3();
}
