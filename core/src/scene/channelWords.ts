import type { ChannelName } from './material.ts';

/** What a word in a file or property name says about its content. */
export type WordMeaning = ChannelName | 'bumpOrNormal' | 'normalYPlus' | 'normalYMinus' | 'transparency';

const WORDS: Record<WordMeaning, string> = {
  baseColor: 'basecolor basecolour albedo diffuse diff color colour col bc alb basemap dif',
  metalness: 'metalness metallic metal met mtl metallicness',
  roughness: 'roughness rough rgh rou',
  glossiness: 'glossiness gloss smoothness smooth gls shininess',
  normal: 'normal normals norm nrm nor nml normalmap',
  normalYPlus: 'normalgl normalopengl normalyplus nrmgl',
  normalYMinus: 'normaldx normaldirectx normalyminus nrmdx',
  bump: 'bump bmp bumpmap',
  bumpOrNormal: 'normalcamera',
  height: 'height displacement disp displace hgt heightmap depth',
  occlusion: 'occlusion ambientocclusion ao occ mixedao',
  emission: 'emission emissive emit emitcolor emitcolour glow selfillumination illumination emissioncolor emissivecolor',
  opacity: 'opacity alpha mask cutout opac',
  transparency: 'transparency transparent transp',
  specularColor: 'specularcolor specularcolour speccolor spec specular reflection',
  specular: 'specularlevel specularintensity specularweight specularfactor specularlevels',
  ior: 'ior refractionindex indexofrefraction',
  transmission: 'transmission refraction translucency transmissive',
  coat: 'coat clearcoat coatweight',
  coatRoughness: 'coatroughness clearcoatroughness',
  sheenColor: 'sheen sheencolor sheencolour fuzz',
  subsurface: 'subsurface sss scattering subsurfacecolor',
};

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
};

/** Packed orders that are spelled out; the channels of r, g, b and perhaps a. */
const PACKED: Record<string, ChannelName[]> = {
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
