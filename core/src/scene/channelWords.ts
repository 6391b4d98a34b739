import type { ChannelName, Component } from './material.ts';

/** What a word in a file or property name says about its content. */
export type WordMeaning = ChannelName | 'bumpOrNormal' | 'normalYPlus' | 'normalYMinus' | 'transparency';

const WORDS: Record<WordMeaning, string> = {
  baseColor:
    'basecolor basecolour albedo diffuse difuse diffus diff skin color colour col bc alb basemap dif basecol albd diffusecolor diffusecolour diffusemap colormap colourmap albedomap basecolormap dfs diffusion bcol clr maincolor maintex albedocolor base farbe grundfarbe couleur couleurdebase colorbase colorebase colore kleur kolor farg farge farve cor corbase barva vari renk 颜色 固有色 基础色 ベースカラー カラー 색상 цвет',
  metalness:
    'metalness metallic basemetalness metal met mtl metallicness metallness metalic metallicity mtlc mtn metl metall metallisch metallique metalico metallico metallo metaal metalicznosc metalisk metallhet metalico kovovost 金属 金属度 金属感 メタリック 金属性 메탈릭 металличность металл',
  roughness:
    'roughness rough rgh rou roughnes rgn rghn rougness roughnessmap specularroughness specroughness rauheit rauigkeit rugosite rugosidad ruvidita ruwheid szorstkosc grovhet ruhet ruhed rugosidade drsnost karheus puruzluluk 粗糙度 粗糙 粗さ ラフネス 러프니스 шероховатость',
  glossiness:
    'glossiness gloss smoothness smooth gls shininess glossy glos smth lucentezza glossmap smoothnessmap sm shiny glsn smoothn glanz brillance brillo lucidita glans polysk glansighet brilho lesk 光泽 光泽度 光沢 глянец',
  normal:
    'normal normals geometrynormal norm norms nrm nor nml normalmap nmap nrml nm tangentnormal normaltangent normalts tsnormal ddn normale normales normalen normaal normalna normalkarta normalova 法线 法線 ノーマル 노멀 нормаль нормали',
  normalYPlus: 'normalgl normalopengl normalogl normalyplus nrmgl norgl normgl normalsgl nrmogl nmgl',
  normalYMinus: 'normaldx normaldirectx normalyminus nrmdx nordx normdx normalsdx normald nmdx',
  bump: 'bump bmp bumpmap bumpiness',
  bumpOrNormal: 'normalcamera',
  height:
    'height displacement disp displace hgt heightmap depth dsp displ displacementmap hght parallax depthmap dispmap ht hoehe hohe hauteur altura altezza relief relieve rilievo hoogte wysokosc hojd hoyde hojde vyska 高度 高さ 置换 ハイト высота',
  occlusion:
    'occlusion ambientocclusion ao occ mixedao ambocc ambient aomap occlusionmap ambientocc occl okluzja okkluzion oclusion oclusao occlusione umgebungsverdeckung verdeckung 环境光遮蔽 环境遮蔽 遮蔽 затенение',
  emission:
    'emission emissive emit emitcolor emitcolour glow selfillumination illumination emissioncolor emissivecolor emis emiss selfillum illum emissivemap emissionmap incandescence luminous emm emi emssn glowmap emissione emision emissie emisja emissao utstralning 自发光 发光 エミッション 発光 свечение',
  opacity:
    'opacity geometryopacity alpha mask cutout op opac alphamask opacitymask opacitymap alphamap cutoutmask opc msk alph deckkraft opacite opacidad opacita dekking przezroczystosc opacidade opacitet 不透明度 不透明 непрозрачность',
  transparency:
    'transparency transparent transp transparencymap trans trn transparenz transparence transparencia trasparenza',
  specularColor:
    'specularcolor specularcolour speccolor spec specular reflection refl speccol specularmap spc specmap reflectance',
  specular:
    'specularlevel specularintensity specularweight specularfactor specularlevels speclevel specularity',
  ior: 'ior refractionindex indexofrefraction',
  transmission: 'transmission transmissionweight refraction translucency transmissive translucent',
  coat: 'coat clearcoat coatweight ccoat',
  coatRoughness: 'coatroughness clearcoatroughness coatrough clearcoatrough',
  sheenColor: 'sheen sheencolor sheencolour fuzz fuzzcolor fuzzcolour sheentint',
  subsurface: 'subsurface subsurfaceweight sss scattering subsurfacecolor scatter subsurfacecolour',
};

/** Words that also describe things, so that alone in a name they may not mean a channel. */
const WEAK = new Set(
  'base skin op refl relief metallo metaal metalisk metalico cor vari renk barva glans lesk brilho dekking kolor kleur 金属 металл colore brillo glanz color colour metall metal rough smooth mask alpha depth coat light glow ambient spec diff smooth glossy shiny transparent trans translucent reflection scatter met mtl col nm sm ht norm norms nor shiny clr diffusion luminous transp fuzz dif disp bc parallax rou emit illumination refraction'.split(
    ' ',
  ),
);

/** Of the words that also describe things, those that as the last word of a name hardly describe one. */
const SHORT_FORMS = new Set(
  'color colour op diff dif col bc nor norm norms met mtl nm clr spec disp emit illumination rou glow'.split(
    ' ',
  ),
);

/** Words of maps that tools bake and no material reads; a name with one of them is no channel. */
const UTILITY = new Set(
  'diffuseroughness basediffuseroughness coatnormal clearcoatnormal geometrycoatnormal id matid materialid curvature position worldposition thickness worldspacenormal wsnormal objectspacenormal osnormal cavity convexity uv uvs uvlayout uvmap wireframe masks multimask'.split(
    ' ',
  ),
);

/** Words of pictures that show the thing and are no map of it. */
const PICTURES = new Set(
  'preview thumbnail thumb screenshot turntable beauty reference render renders icon logo contactsheet'.split(
    ' ',
  ),
);

/** Single letters and pairs of them; they count only where siblings follow the same scheme. */
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
  al: ['baseColor'],
  co: ['baseColor'],
  di: ['baseColor'],
  no: ['normal'],
  nr: ['normal'],
  ro: ['roughness'],
  rg: ['roughness'],
  me: ['metalness'],
  mt: ['metalness'],
  gl: ['glossiness'],
  sp: ['specularColor'],
  oc: ['occlusion'],
  em: ['emission'],
  he: ['height'],
  bu: ['bump'],
  tr: ['transparency'],
  kd: ['baseColor'],
  ks: ['specularColor'],
  ke: ['emission'],
};

/** Pairs of letters that count as one in a packed order. */
const ORDER_PAIRS: Record<string, ChannelName> = {
  ao: 'occlusion',
  dp: 'height',
  mt: 'metalness',
};

/** What the letters of a packed order stand for, in the order of r, g, b and a. */
const ORDER_LETTERS: Record<string, ChannelName> = {
  o: 'occlusion',
  a: 'occlusion',
  r: 'roughness',
  m: 'metalness',
  g: 'glossiness',
  s: 'glossiness',
  h: 'height',
  d: 'height',
};

/** Orders that are in wide use, so that they are believed without a sibling. */
const USUAL_ORDERS = new Set(
  'orm arm aorm rma rmo mra mro mroh mrao mraoh omr amr ormh armh rom ram mar mor raom maor aomr mrah'.split(
    ' ',
  ),
);

/** Single words for several channels in one image; by the customs of the programs that write them. */
const COMPOUNDS: Record<string, readonly [Component, ChannelName][]> = {
  metallicsmoothness: [
    ['r', 'metalness'],
    ['a', 'glossiness'],
  ],
  metallicgloss: [
    ['r', 'metalness'],
    ['a', 'glossiness'],
  ],
  metallicglossiness: [
    ['r', 'metalness'],
    ['a', 'glossiness'],
  ],
  metalsmoothness: [
    ['r', 'metalness'],
    ['a', 'glossiness'],
  ],
  metallicglossmap: [
    ['r', 'metalness'],
    ['a', 'glossiness'],
  ],
  specularsmoothness: [
    ['rgb', 'specularColor'],
    ['a', 'glossiness'],
  ],
  specsmoothness: [
    ['rgb', 'specularColor'],
    ['a', 'glossiness'],
  ],
  specularglossiness: [
    ['rgb', 'specularColor'],
    ['a', 'glossiness'],
  ],
  speculargloss: [
    ['rgb', 'specularColor'],
    ['a', 'glossiness'],
  ],
  specgloss: [
    ['rgb', 'specularColor'],
    ['a', 'glossiness'],
  ],
  specglossmap: [
    ['rgb', 'specularColor'],
    ['a', 'glossiness'],
  ],
  albedotransparency: [
    ['rgb', 'baseColor'],
    ['a', 'opacity'],
  ],
  albedoalpha: [
    ['rgb', 'baseColor'],
    ['a', 'opacity'],
  ],
  albedoopacity: [
    ['rgb', 'baseColor'],
    ['a', 'opacity'],
  ],
  basecoloropacity: [
    ['rgb', 'baseColor'],
    ['a', 'opacity'],
  ],
  basecoloralpha: [
    ['rgb', 'baseColor'],
    ['a', 'opacity'],
  ],
  colortransparency: [
    ['rgb', 'baseColor'],
    ['a', 'opacity'],
  ],
  coloralpha: [
    ['rgb', 'baseColor'],
    ['a', 'opacity'],
  ],
  diffalpha: [
    ['rgb', 'baseColor'],
    ['a', 'opacity'],
  ],
  diffusealpha: [
    ['rgb', 'baseColor'],
    ['a', 'opacity'],
  ],
  diffuseopacity: [
    ['rgb', 'baseColor'],
    ['a', 'opacity'],
  ],
  diffusetransparency: [
    ['rgb', 'baseColor'],
    ['a', 'opacity'],
  ],
  albedosmoothness: [
    ['rgb', 'baseColor'],
    ['a', 'glossiness'],
  ],
  normalheight: [
    ['rgb', 'normal'],
    ['a', 'height'],
  ],
  ddna: [
    ['rgb', 'normal'],
    ['a', 'glossiness'],
  ],
  maskmap: [
    ['r', 'metalness'],
    ['g', 'occlusion'],
    ['a', 'glossiness'],
  ],
  mads: [
    ['r', 'metalness'],
    ['g', 'occlusion'],
    ['a', 'glossiness'],
  ],
  metallicroughness: [
    ['g', 'roughness'],
    ['b', 'metalness'],
  ],
  metalnessroughness: [
    ['g', 'roughness'],
    ['b', 'metalness'],
  ],
  metalroughness: [
    ['g', 'roughness'],
    ['b', 'metalness'],
  ],
  metallicrough: [
    ['g', 'roughness'],
    ['b', 'metalness'],
  ],
  metalrough: [
    ['g', 'roughness'],
    ['b', 'metalness'],
  ],
  roughnessmetallic: [
    ['g', 'roughness'],
    ['b', 'metalness'],
  ],
  roughnessmetalness: [
    ['g', 'roughness'],
    ['b', 'metalness'],
  ],
  roughmetal: [
    ['g', 'roughness'],
    ['b', 'metalness'],
  ],
  occlusionroughnessmetallic: [
    ['r', 'occlusion'],
    ['g', 'roughness'],
    ['b', 'metalness'],
  ],
  occlusionroughnessmetalness: [
    ['r', 'occlusion'],
    ['g', 'roughness'],
    ['b', 'metalness'],
  ],
  aoroughnessmetallic: [
    ['r', 'occlusion'],
    ['g', 'roughness'],
    ['b', 'metalness'],
  ],
  aoroughmetal: [
    ['r', 'occlusion'],
    ['g', 'roughness'],
    ['b', 'metalness'],
  ],
};

const MEANING = new Map<string, WordMeaning>();
for (const [meaning, words] of Object.entries(WORDS)) {
  for (const word of words.split(' ')) MEANING.set(word, meaning as WordMeaning);
}

/**
 * The meaning of one word or of two to three joined ones (`base` + `color`); undefined when it says nothing.
 */
export function meaningOfWord(word: string): WordMeaning | undefined {
  return MEANING.get(word) ?? MEANING.get(plainLetters(word));
}

/** Without accents, and with the plain letters that stand in for those of northern and eastern Europe. */
function plainLetters(word: string): string {
  return word
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .replace(/[øłß]/gu, (letter) => ({ ø: 'o', ł: 'l', ß: 'ss' })[letter] ?? letter);
}

/** Shorter words have too many neighbours to be taken for misspelt ones. */
const LEAST_MISSPELT = 7;
/** Letters at an end of a word that one slip leaves as they are, at this end or at the other. */
const KEPT = 3;
/** Long words by their first and by their last letters. */
const LONG_WORDS = new Map<string, string[]>();
for (const word of MEANING.keys()) {
  if (word.length < LEAST_MISSPELT) continue;
  for (const end of endsOf(word)) LONG_WORDS.set(end, [...(LONG_WORDS.get(end) ?? []), word]);
}

function endsOf(word: string): [first: string, last: string] {
  return [`${word.slice(0, KEPT)}-`, `-${word.slice(-KEPT)}`];
}

/** The meaning of a long word that one letter too many, too few or another one parts from one of ours. */
export function meaningOfMisspelt(word: string): WordMeaning | undefined {
  if (word.length < LEAST_MISSPELT) return undefined;
  for (const end of endsOf(word)) {
    const known = LONG_WORDS.get(end)?.find((one) => isOneLetterOff(word, one));
    if (known !== undefined) return MEANING.get(known);
  }
  return undefined;
}

function isOneLetterOff(a: string, b: string): boolean {
  if (Math.abs(a.length - b.length) > 1) return false;
  let start = 0;
  while (start < a.length && a[start] === b[start]) start += 1;
  const rest = (text: string, skipped: number) => text.slice(start + skipped);
  if (a.length !== b.length)
    return a.length > b.length ? rest(a, 1) === rest(b, 0) : rest(a, 0) === rest(b, 1);
  // Another letter, or two that changed places.
  const exchanged = a[start] === b[start + 1] && a[start + 1] === b[start] && rest(a, 2) === rest(b, 2);
  return rest(a, 1) === rest(b, 1) || exchanged;
}

/** True for words that describe things as often as they name a channel, such as `metal`. */
export function isWeakWord(word: string): boolean {
  return WEAK.has(word);
}

/**
 * True for words that name a channel where they end a name, although they may mean something else within it.
 */
export function isShortForm(word: string): boolean {
  return SHORT_FORMS.has(word);
}

/** True for words of pictures that show a thing (`preview`), which no channel reads. */
export function isPictureWord(word: string): boolean {
  return PICTURES.has(word);
}

/** True for words of baked helper maps (`curvature`, `id`) that feed no channel. */
export function isUtilityWord(word: string): boolean {
  return UTILITY.has(word);
}

/**
 * Words long enough to be recognised when they are joined to a name without any separator (`hullroughness`).
 */
export const JOINABLE_WORDS: readonly [string, WordMeaning][] = Object.entries(WORDS)
  .flatMap(([meaning, words]) =>
    words.split(' ').map((word): [string, WordMeaning] => [word, meaning as WordMeaning]),
  )
  .filter(([word]) => word.length >= 6 && !WEAK.has(word))
  .sort(([a], [b]) => b.length - a.length);

/**
 * What one letter of a packed name can stand for, such as `o`, `r` and `m` in `_orm`; empty where it says
 * nothing.
 */
export function meaningsOfLetter(letter: string): readonly WordMeaning[] {
  return LETTERS[letter] ?? [];
}

/** Two letters for one channel of a packed order: `dp` in `ordp`. */
export function isOrderPair(word: string): boolean {
  return Object.hasOwn(ORDER_PAIRS, word);
}

/** Several channels in one image, and whether the word is in wide use or could be another word. */
export interface PackedWord {
  readings: readonly [Component, ChannelName][];
  usual: boolean;
}

const COMPONENT_ORDER: readonly Component[] = ['r', 'g', 'b', 'a'];

/**
 * The channels that one word packs: a compound such as `metallicsmoothness`, or letters in the order of the
 * components (`orm`, `mraoh`). Orders beyond the usual ones need roughness or gloss and another channel, each
 * once.
 */
export function packedWord(word: string): PackedWord | null {
  if (Object.hasOwn(COMPOUNDS, word)) return { readings: COMPOUNDS[word], usual: true };
  if (word.length < 3 || word.length > 5) return null;
  const channels: ChannelName[] = [];
  for (let i = 0; i < word.length; i += 1) {
    const pair: ChannelName | undefined = ORDER_PAIRS[word.slice(i, i + 2)];
    if (pair) i += 1;
    const channel = pair ?? ORDER_LETTERS[word[i]];
    if (!channel || channels.includes(channel)) return null;
    if (channel === 'height' && i < word.length - 1) return null;
    channels.push(channel);
  }
  const finish = channels.includes('roughness') || channels.includes('glossiness');
  if (channels.length < 3 || channels.length > 4 || !finish) return null;
  if (channels.includes('roughness') && channels.includes('glossiness')) return null;
  return {
    readings: channels.map((channel, i) => [COMPONENT_ORDER[i], channel]),
    usual: USUAL_ORDERS.has(word),
  };
}

/**
 * Splits a name at separators, case changes and digits: `HullPaint_baseColor2k` -> hull paint base color 2 k.
 */
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
