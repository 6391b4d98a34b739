import type { ChannelName } from './material.ts';

/** What a word in a file or property name says about its content. */
export type WordMeaning = ChannelName | 'bumpOrNormal' | 'normalYPlus' | 'normalYMinus' | 'transparency';

const WORDS: Record<WordMeaning, string> = {
  baseColor:
    'basecolor basecolour albedo diffuse diff color colour col bc alb basemap dif basecol albd diffusecolor diffusecolour diffusemap colormap colourmap albedomap basecolormap dfs diffusion bcol clr',
  metalness: 'metalness metallic metal met mtl metallicness metallness metalic metallicity mtlc mtn metl',
  roughness: 'roughness rough rgh rou roughnes rgn rghn rougness roughnessmap',
  glossiness: 'glossiness gloss smoothness smooth gls shininess glossy glos smth glossmap smoothnessmap sm shiny',
  normal: 'normal normals norm nrm nor nml normalmap nmap nrml nm tangentnormal normaltangent normalts tsnormal',
  normalYPlus: 'normalgl normalopengl normalogl normalyplus nrmgl norgl normgl normalsgl nrmogl nmgl',
  normalYMinus: 'normaldx normaldirectx normalyminus nrmdx nordx normdx normalsdx normald nmdx',
  bump: 'bump bmp bumpmap bumpiness',
  bumpOrNormal: 'normalcamera',
  height: 'height displacement disp displace hgt heightmap depth dsp displ displacementmap hght parallax depthmap dispmap ht',
  occlusion: 'occlusion ambientocclusion ao occ mixedao ambocc ambient aomap occlusionmap ambientocc occl',
  emission:
    'emission emissive emit emitcolor emitcolour glow selfillumination illumination emissioncolor emissivecolor emis emiss selfillum illum emissivemap emissionmap incandescence luminous emm',
  opacity: 'opacity alpha mask cutout opac alphamask opacitymask opacitymap alphamap cutoutmask opc',
  transparency: 'transparency transparent transp transparencymap trans',
  specularColor: 'specularcolor specularcolour speccolor spec specular reflection speccol specularmap spc specmap reflectance',
  specular: 'specularlevel specularintensity specularweight specularfactor specularlevels speclevel specularity',
  ior: 'ior refractionindex indexofrefraction',
  transmission: 'transmission refraction translucency transmissive translucent',
  coat: 'coat clearcoat coatweight ccoat',
  coatRoughness: 'coatroughness clearcoatroughness coatrough clearcoatrough',
  sheenColor: 'sheen sheencolor sheencolour fuzz sheentint',
  subsurface: 'subsurface sss scattering subsurfacecolor scatter subsurfacecolour',
};

/** Words that also describe things, so that alone in a name they may not mean a channel. */
const WEAK = new Set(
  'color colour metal rough smooth mask alpha depth coat light glow ambient spec diff smooth glossy shiny transparent trans translucent reflection scatter met mtl col nm sm ht norm nor shiny clr diffusion luminous transp fuzz dif disp bc parallax rou emit illumination refraction'.split(
    ' ',
  ),
);

/** Words of maps that tools bake and no material reads; a name with one of them is no channel. */
const UTILITY = new Set(
  'id matid materialid curvature position worldposition thickness worldspacenormal wsnormal objectspacenormal osnormal cavity convexity uv uvs wireframe'.split(
    ' ',
  ),
);

/** Single letters; they count only where siblings follow the same scheme. */
const LETTERS: Record<string, WordMeaning[]> = {
  b: ['baseColor', 'bump'],
  c: ['baseColor'],
  d: ['baseColor', 'height'],
  a: ['baseColor', 'opacity', 'occlusion'],
  m: ['metalness', 'opacity'],
  r: ['roughness'],
  g: ['glossiness'],
  n: ['normal'],
  h: ['height'],
  o: ['opacity', 'occlusion'],
  e: ['emission'],
  s: ['specularColor', 'glossiness'],
  t: ['opacity', 'transmission'],
};

/** Packed orders that are spelled out; the channels of r, g, b and perhaps a. */
const PACKED: Record<string, ChannelName[]> = {
  aorm: ['occlusion', 'roughness', 'metalness'],
  omr: ['occlusion', 'metalness', 'roughness'],
  amr: ['occlusion', 'metalness', 'roughness'],
  mroh: ['metalness', 'roughness', 'occlusion', 'height'],
  armh: ['occlusion', 'roughness', 'metalness', 'height'],
  rom: ['roughness', 'occlusion', 'metalness'],
  ram: ['roughness', 'occlusion', 'metalness'],
  mar: ['metalness', 'occlusion', 'roughness'],
  orm: ['occlusion', 'roughness', 'metalness'],
  arm: ['occlusion', 'roughness', 'metalness'],
  ormh: ['occlusion', 'roughness', 'metalness', 'height'],
  mra: ['metalness', 'roughness', 'occlusion'],
  mro: ['metalness', 'roughness', 'occlusion'],
  rma: ['roughness', 'metalness', 'occlusion'],
  rmo: ['roughness', 'metalness', 'occlusion'],
  mor: ['metalness', 'occlusion', 'roughness'],
};

const MEANING = new Map<string, WordMeaning>();
for (const [meaning, words] of Object.entries(WORDS)) {
  for (const word of words.split(' ')) MEANING.set(word, meaning as WordMeaning);
}

/** The meaning of one word or of two to three joined ones (`base` + `color`); undefined when it says nothing. */
export function meaningOfWord(word: string): WordMeaning | undefined {
  return MEANING.get(word);
}

/** True for words that describe things as often as they name a channel, such as `metal`. */
export function isWeakWord(word: string): boolean {
  return WEAK.has(word);
}

/** True for words of baked helper maps (`curvature`, `id`) that feed no channel. */
export function isUtilityWord(word: string): boolean {
  return UTILITY.has(word);
}

/** Words long enough to be recognised when they are joined to a name without any separator (`hullroughness`). */
export const JOINABLE_WORDS: readonly [string, WordMeaning][] = Object.entries(WORDS)
  .flatMap(([meaning, words]) => words.split(' ').map((word): [string, WordMeaning] => [word, meaning as WordMeaning]))
  .filter(([word]) => word.length >= 6 && !WEAK.has(word))
  .sort(([a], [b]) => b.length - a.length);

export function meaningsOfLetter(letter: string): readonly WordMeaning[] {
  return LETTERS[letter] ?? [];
}

export function packedOrder(word: string): readonly ChannelName[] | undefined {
  return PACKED[word];
}

/** Splits a name at separators, case changes and digits: `HullPaint_baseColor2k` -> hull paint base color 2 k. */
export function splitWords(name: string): string[] {
  return name
    .normalize('NFC')
    .replace(/(\p{Ll})(\p{Lu})/gu, '$1 $2')
    .replace(/(\p{Lu}+)(\p{Lu}\p{Ll})/gu, '$1 $2')
    .replace(/(\p{L})(\d)/gu, '$1 $2')
    .replace(/(\d)(\p{L})/gu, '$1 $2')
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);
}
