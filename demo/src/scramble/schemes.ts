import type { ChannelName, Component } from '@kinkajou/core/scene/material';

/** What one component of an image holds: a plane of the truth, as it is or inverted. */
export type PlaneSource = 'roughness' | 'metalness' | 'occlusion' | 'opacity' | 'gloss' | 'one';

/** One file of a naming scheme. */
export interface SchemeFile {
  /** The name without its type; `{set}` and `{Set}` stand for the set's words. */
  name: string;
  /** Three components of one plane, or a list of single ones. */
  rgb: 'baseColor' | 'normal' | 'normalDown' | 'emission' | 'specular' | readonly PlaneSource[];
  /** What lies in the alpha; `cover` is the opacity where there is one. */
  alpha?: 'cover' | 'gloss';
  /** How slots read it, for models that name it. */
  slots: readonly { channel: ChannelName; component: Component; invert?: boolean }[];
}

/** A way in which people name and pack the images of a material. */
export interface Scheme {
  id: string;
  /** Painted as specular colour and gloss. */
  specGloss?: boolean;
  /** Words between the parts of the set's own name, and how they are written. */
  style: 'snake' | 'pascal' | 'kebab' | 'spaced';
  files: readonly SchemeFile[];
}

const slot = (channel: ChannelName, component: Component = 'r', invert = false) => ({
  channel,
  component,
  invert,
});
const base = (name: string, alpha: 'cover' | undefined = 'cover'): SchemeFile => ({
  name,
  rgb: 'baseColor',
  ...(alpha ? { alpha } : {}),
  slots: [slot('baseColor', 'rgb')],
});
const normal = (name: string, down = false): SchemeFile => ({
  name,
  rgb: down ? 'normalDown' : 'normal',
  slots: [slot('normal', 'rgb')],
});
const grey = (name: string, source: PlaneSource, channel: ChannelName, invert = false): SchemeFile => ({
  name,
  rgb: [source],
  slots: [slot(channel, 'r', invert)],
});
const glowing = (name: string): SchemeFile => ({ name, rgb: 'emission', slots: [slot('emission', 'rgb')] });
const orm = (name: string): SchemeFile => ({
  name,
  rgb: ['occlusion', 'roughness', 'metalness'],
  slots: [slot('occlusion', 'r'), slot('roughness', 'g'), slot('metalness', 'b')],
});

/** Ways in which images are named and packed. */
export const SCHEMES: readonly Scheme[] = [
  {
    id: 'long',
    style: 'snake',
    files: [
      base('{set}_BaseColor', undefined),
      grey('{set}_Metallic', 'metalness', 'metalness'),
      grey('{set}_Roughness', 'roughness', 'roughness'),
      normal('{set}_Normal'),
      grey('{set}_AO', 'occlusion', 'occlusion'),
      glowing('{set}_Emissive'),
      grey('{set}_Opacity', 'opacity', 'opacity'),
    ],
  },
  {
    id: 'engine',
    style: 'pascal',
    files: [base('T_{set}_BC'), orm('T_{set}_ORM'), normal('T_{set}_N'), glowing('T_{set}_E')],
  },
  {
    id: 'letters',
    style: 'snake',
    files: [
      base('{set}_d'),
      normal('{set}_n'),
      grey('{set}_r', 'roughness', 'roughness'),
      grey('{set}_m', 'metalness', 'metalness'),
      glowing('{set}_e'),
    ],
  },
  {
    id: 'kebab',
    style: 'kebab',
    files: [
      base('{set}-albedo'),
      normal('{set}-normal-dx', true),
      grey('{set}-rough', 'roughness', 'roughness'),
      grey('{set}-metal', 'metalness', 'metalness'),
      grey('{set}-ao', 'occlusion', 'occlusion'),
      glowing('{set}-emission'),
    ],
  },
  {
    id: 'smoothness',
    style: 'pascal',
    files: [
      base('{set}_AlbedoTransparency'),
      {
        name: '{set}_MetallicSmoothness',
        rgb: ['metalness', 'metalness', 'metalness'],
        alpha: 'gloss',
        slots: [slot('metalness', 'r'), slot('roughness', 'a', true)],
      },
      normal('{set}_Normal'),
      grey('{set}_Occlusion', 'occlusion', 'occlusion'),
      glowing('{set}_Emission'),
    ],
  },
  {
    id: 'specgloss',
    style: 'snake',
    specGloss: true,
    files: [
      base('{set}_diffuse'),
      { name: '{set}_specular', rgb: 'specular', slots: [slot('specularColor', 'rgb')] },
      grey('{set}_glossiness', 'gloss', 'glossiness'),
      normal('{set}_normal'),
      grey('{set}_ao', 'occlusion', 'occlusion'),
      glowing('{set}_glow'),
    ],
  },
  {
    id: 'short',
    style: 'snake',
    files: [
      base('{set}_col_2k'),
      normal('{set}_nrm_2k'),
      grey('{set}_rgh_2k', 'roughness', 'roughness'),
      grey('{set}_mtl_2k', 'metalness', 'metalness'),
      grey('{set}_occ_2k', 'occlusion', 'occlusion'),
      glowing('{set}_emi_2k'),
      grey('{set}_opac_2k', 'opacity', 'opacity'),
    ],
  },
  {
    id: 'first',
    style: 'snake',
    files: [
      base('basecolor_{set}'),
      normal('normal_{set}'),
      grey('roughness_{set}', 'roughness', 'roughness'),
      grey('metallic_{set}', 'metalness', 'metalness'),
      glowing('emissive_{set}'),
    ],
  },
  {
    id: 'bare',
    style: 'snake',
    files: [
      base('{set}'),
      normal('{set}_n'),
      grey('{set}_rough', 'roughness', 'roughness'),
      grey('{set}_metal', 'metalness', 'metalness'),
      glowing('{set}_glow'),
    ],
  },
  {
    id: 'spaced',
    style: 'spaced',
    files: [
      base('{set} Base Color'),
      normal('{set} Normal OpenGL'),
      grey('{set} Roughness', 'roughness', 'roughness'),
      grey('{set} Metalness', 'metalness', 'metalness'),
      grey('{set} Ambient Occlusion', 'occlusion', 'occlusion'),
      glowing('{set} Emissive Color'),
    ],
  },
  {
    id: 'gloss',
    style: 'snake',
    files: [
      base('{set}_alb'),
      normal('{set}_nor'),
      grey('{set}_gls', 'gloss', 'roughness', true),
      grey('{set}_met', 'metalness', 'metalness'),
      grey('{set}_ao', 'occlusion', 'occlusion'),
      glowing('{set}_emit'),
    ],
  },
  {
    id: 'arm',
    style: 'snake',
    files: [
      base('{set}_diff_1k'),
      normal('{set}_nor_gl_1k'),
      orm('{set}_arm_1k'),
      glowing('{set}_emission_1k'),
    ],
  },
  {
    id: 'mask',
    style: 'pascal',
    files: [
      base('{set}_BaseMap'),
      normal('{set}_Normal'),
      {
        name: '{set}_MaskMap',
        rgb: ['metalness', 'occlusion', 'one'],
        alpha: 'gloss',
        slots: [slot('metalness', 'r'), slot('occlusion', 'g'), slot('roughness', 'a', true)],
      },
      glowing('{set}_Emission'),
    ],
  },
];

/** Images of the four usual channels, by the words or letters that stand for them. */
const four = (
  name: (word: string) => string,
  [colour, bumps, rough, metal]: readonly [string, string, string, string],
): SchemeFile[] => [
  base(name(colour)),
  normal(name(bumps)),
  grey(name(rough), 'roughness', 'roughness'),
  grey(name(metal), 'metalness', 'metalness'),
];

/** Rarer ways; each is measured by itself. */
export const RARE_SCHEMES: readonly Scheme[] = [
  {
    id: 'letters first',
    style: 'snake',
    files: [
      ...four((letter) => `${letter}_{set}`, ['D', 'N', 'R', 'M']),
      grey('AO_{set}', 'occlusion', 'occlusion'),
    ],
  },
  {
    id: 'two letters',
    style: 'snake',
    files: four((letters) => `tx_{set}_${letters}`, ['co', 'no', 'ro', 'me']),
  },
  {
    id: 'counted',
    style: 'snake',
    files: four((word) => `{set}_${word}_8k`, ['1_diffuse', '2_normal', '3_roughness', '4_metallic']),
  },
  {
    id: 'folders',
    style: 'snake',
    files: four(
      (folder) => `${folder}/{set}_${folder.slice(0, 2)}`,
      ['01_albedo', '02_normal', '03_rough', '04_metal'],
    ),
  },
  {
    id: 'standard',
    style: 'snake',
    files: [
      ...four(
        (input) => `{set}_${input}`,
        ['base_color', 'geometry_normal', 'specular_roughness', 'base_metalness'],
      ),
      glowing('{set}_emission_color'),
    ],
  },
  {
    id: 'misspelt',
    style: 'snake',
    files: [
      ...four((word) => `{set}_${word}`, ['basecolr', 'normalCamera', 'roughnes', 'metalic']),
      grey('{set}_ambiant_occlusion', 'occlusion', 'occlusion'),
    ],
  },
  {
    id: 'tongues',
    style: 'snake',
    files: four((word) => `{set}_${word}`, ['kleur', 'normaal', 'ruwheid', 'metaal']),
  },
];

/** Names without the set: its folder tells it. */
export const PLAIN: Scheme = {
  id: 'plain',
  style: 'snake',
  files: [
    base('albedo'),
    normal('normal'),
    grey('roughness', 'roughness', 'roughness'),
    grey('metallic', 'metalness', 'metalness'),
    grey('ao', 'occlusion', 'occlusion'),
    glowing('emissive'),
  ],
};

/** The scheme with this id; throws where there is none. */
export function schemeOf(id: string): Scheme {
  const found = [...SCHEMES, ...RARE_SCHEMES, PLAIN].find((scheme) => scheme.id === id);
  if (!found) throw new Error(`there is no scheme ${id}`);
  return found;
}

/** Words in the way that a scheme writes names. */
export function styled(words: readonly string[], style: Scheme['style']): string {
  const capital = (word: string) => word.replace(/^\p{L}/u, (letter) => letter.toUpperCase());
  if (style === 'pascal') return words.map(capital).join('');
  if (style === 'kebab') return words.join('-');
  return style === 'spaced' ? words.map(capital).join(' ') : words.join('_');
}
