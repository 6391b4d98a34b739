import { COLOUR_SPACES, type ColourSpace } from '../scene/material.ts';

/** A set of words by which a kind of application names colour spaces. */
export type DialectName = 'interop' | 'plain' | 'usd' | 'acesCg' | 'acesStudio';

/** Words for colour spaces, as one kind of receiver has them. */
export interface Dialect {
  title: string;
  /** The word for each space; spaces without one cannot be said in this dialect. */
  words: Partial<Record<ColourSpace, string>>;
  /** Further words that are understood on reading. */
  aliases: Record<string, ColourSpace>;
}

/**
 * Words of the public OpenColorIO configurations for ACES; the CG one holds fewer spaces than the Studio one.
 */
const ACES_CG: Partial<Record<ColourSpace, string>> = {
  srgb_rec709_scene: 'sRGB - Texture',
  g22_rec709_scene: 'Gamma 2.2 Rec.709 - Texture',
  g18_rec709_scene: 'Gamma 1.8 Rec.709 - Texture',
  lin_rec709_scene: 'Linear Rec.709 (sRGB)',
  lin_p3d65_scene: 'Linear P3-D65',
  srgb_p3d65_scene: 'sRGB Encoded P3-D65 - Texture',
  lin_rec2020_scene: 'Linear Rec.2020',
  lin_ap1_scene: 'ACEScg',
  g22_ap1_scene: 'Gamma 2.2 AP1 - Texture',
  srgb_ap1_scene: 'sRGB Encoded AP1 - Texture',
  lin_ap0_scene: 'ACES2065-1',
  lin_ciexyzd65_scene: 'CIE-XYZ-D65',
  data: 'Raw',
};

const ACES_ALIASES: Record<string, ColourSpace> = {
  srgb_tx: 'srgb_rec709_scene',
  srgb_texture: 'srgb_rec709_scene',
  'sRGB Encoded Rec.709 (sRGB)': 'srgb_rec709_scene',
  'Gamma 2.2 Encoded Rec.709': 'g22_rec709_scene',
  'Gamma 1.8 Encoded Rec.709': 'g18_rec709_scene',
  'Gamma 2.2 Encoded AP1': 'g22_ap1_scene',
  'sRGB Encoded AP1': 'srgb_ap1_scene',
  'sRGB Encoded P3-D65': 'srgb_p3d65_scene',
  lin_rec709: 'lin_rec709_scene',
  lin_srgb: 'lin_rec709_scene',
  lin_p3d65: 'lin_p3d65_scene',
  lin_rec2020: 'lin_rec2020_scene',
  'ACES - ACEScg': 'lin_ap1_scene',
  lin_ap1: 'lin_ap1_scene',
  'ACES - ACES2065-1': 'lin_ap0_scene',
  lin_ap0: 'lin_ap0_scene',
  aces: 'lin_ap0_scene',
  utility_raw: 'data',
  'Utility - Raw': 'data',
  'Utility - sRGB - Texture': 'srgb_rec709_scene',
  'Utility - Linear - sRGB': 'lin_rec709_scene',
};

/** Every dialect by its name. */
export const DIALECTS: Readonly<Record<DialectName, Dialect>> = {
  interop: {
    title: 'Interop names',
    words: Object.fromEntries(COLOUR_SPACES.map((space) => [space, space])),
    aliases: {},
  },
  plain: {
    title: 'Plain',
    words: { srgb_rec709_scene: 'sRGB', lin_rec709_scene: 'Linear', data: 'Raw' },
    aliases: { 'scene-linear': 'lin_rec709_scene' },
  },
  usd: { title: 'USD', words: { srgb_rec709_scene: 'sRGB', data: 'raw', unknown: 'auto' }, aliases: {} },
  acesCg: { title: 'ACES CG', words: ACES_CG, aliases: ACES_ALIASES },
  acesStudio: {
    title: 'ACES Studio',
    words: {
      ...ACES_CG,
      lin_adobergb_scene: 'Linear AdobeRGB',
      g22_adobergb_scene: 'Gamma 2.2 Encoded AdobeRGB',
    },
    aliases: ACES_ALIASES,
  },
};

/** Names of all dialects. */
export const DIALECT_NAMES = Object.keys(DIALECTS) as DialectName[];

/** The dialect's word for a space, or null where it has none. */
export function tagWord(space: ColourSpace, dialect: DialectName): string | null {
  return DIALECTS[dialect].words[space] ?? null;
}

/** The space that a word of the dialect names, case aside, or null. `tagSpace(tagWord(s, d), d)` is `s`. */
export function tagSpace(word: string, dialect: DialectName): ColourSpace | null {
  const required = word.trim().toLowerCase();
  const { words, aliases } = DIALECTS[dialect];
  const match = Object.entries(words).find(([, word]) => word.toLowerCase() === required);
  if (match) return match[0] as ColourSpace;
  return Object.entries(aliases).find(([alias]) => alias.toLowerCase() === required)?.[1] ?? null;
}

/** The space that a word names in any dialect, our own names first, or null. */
export function spaceOfWord(word: string): ColourSpace | null {
  for (const dialect of DIALECT_NAMES) {
    const space = tagSpace(word, dialect);
    if (space) return space;
  }
  return null;
}
