import type { ChannelName } from '../../scene/material.ts';

/** Which channel an input of a shader is, by the input's name. */
export type InputTable = Record<string, ChannelName>;

/** Inputs of UsdPreviewSurface. */
export const PREVIEW: InputTable = {
  diffuseColor: 'baseColor',
  emissiveColor: 'emission',
  specularColor: 'specularColor',
  metallic: 'metalness',
  roughness: 'roughness',
  clearcoat: 'coat',
  clearcoatRoughness: 'coatRoughness',
  opacity: 'opacity',
  ior: 'ior',
  normal: 'normal',
  displacement: 'height',
  occlusion: 'occlusion',
};
const STANDARD_SURFACE: InputTable = {
  base_color: 'baseColor',
  metalness: 'metalness',
  specular: 'specular',
  specular_color: 'specularColor',
  specular_roughness: 'roughness',
  specular_IOR: 'ior',
  transmission: 'transmission',
  subsurface_color: 'subsurface',
  sheen_color: 'sheenColor',
  coat: 'coat',
  coat_roughness: 'coatRoughness',
  emission_color: 'emission',
  opacity: 'opacity',
  normal: 'normal',
};

/** Inputs of OpenPBR Surface. */
const OPEN_PBR: InputTable = {
  base_color: 'baseColor',
  base_metalness: 'metalness',
  specular_weight: 'specular',
  specular_color: 'specularColor',
  specular_roughness: 'roughness',
  specular_ior: 'ior',
  transmission_weight: 'transmission',
  subsurface_color: 'subsurface',
  fuzz_color: 'sheenColor',
  coat_weight: 'coat',
  coat_roughness: 'coatRoughness',
  emission_color: 'emission',
  geometry_opacity: 'opacity',
  geometry_normal: 'normal',
};

/** Inputs of MaterialX's gltf_pbr. */
export const GLTF_PBR: InputTable = {
  base_color: 'baseColor',
  metallic: 'metalness',
  roughness: 'roughness',
  normal: 'normal',
  occlusion: 'occlusion',
  transmission: 'transmission',
  specular: 'specular',
  specular_color: 'specularColor',
  ior: 'ior',
  alpha: 'opacity',
  sheen_color: 'sheenColor',
  clearcoat: 'coat',
  clearcoat_roughness: 'coatRoughness',
  emissive: 'emission',
};

/** Inputs by the `info:id` of surfaces that are understood. */
export const SHADERS: Record<string, InputTable> = {
  UsdPreviewSurface: PREVIEW,
  ND_UsdPreviewSurface_surfaceshader: PREVIEW,
  ND_standard_surface_surfaceshader: STANDARD_SURFACE,
  ND_open_pbr_surface_surfaceshader: OPEN_PBR,
  ND_gltf_pbr_surfaceshader: GLTF_PBR,
};

/** What a shader takes where an input says nothing, by its specification, other than what no channel means. */
export const FALLBACKS = new Map<InputTable, Partial<Record<ChannelName, number>>>([
  [PREVIEW, { baseColor: 0.18, roughness: 0.5 }],
  [STANDARD_SURFACE, { baseColor: 0.8, roughness: 0.2 }],
  [OPEN_PBR, { baseColor: 0.8, roughness: 0.3 }],
  [GLTF_PBR, { metalness: 1, roughness: 1 }],
]);

/** Of surfaces with cloth: which input says how rough that is, and what it is where nothing is said. */
export const CLOTH = new Map<InputTable, { input: string; unsaid: number }>([
  [STANDARD_SURFACE, { input: 'sheen_roughness', unsaid: 0.3 }],
  [OPEN_PBR, { input: 'fuzz_roughness', unsaid: 0.5 }],
  [GLTF_PBR, { input: 'sheen_roughness', unsaid: 0 }],
]);

/** What no channel says: how that is told, what changes nothing, and the channel without which it is nothing. */
export interface Unheld {
  input: string;
  kind: string;
  neutral: number;
  of: ChannelName | null;
}

const DRAWN_OUT = { kind: 'reflections that are drawn out (anisotropy)', neutral: 0, of: null };
const GLASS = { kind: 'colours inside of glass', neutral: 1, of: 'transmission' } as const;
const PARTED = { kind: 'colours that glass parts (dispersion)', neutral: 0, of: 'transmission' } as const;
const COATS = { kind: 'colours of coats', neutral: 1, of: 'coat' } as const;
const FILMS = { kind: 'thin films (iridescence)', neutral: 0, of: null };

/** Inputs that change the look and have no channel, by the specification of each surface. */
export const UNHELD = new Map<InputTable, readonly Unheld[]>([
  [
    STANDARD_SURFACE,
    [
      { input: 'specular_anisotropy', ...DRAWN_OUT },
      { input: 'transmission_color', ...GLASS },
      { input: 'transmission_dispersion', ...PARTED },
      { input: 'coat_color', ...COATS },
      { input: 'thin_film_thickness', ...FILMS },
    ],
  ],
  [
    OPEN_PBR,
    [
      { input: 'specular_roughness_anisotropy', ...DRAWN_OUT },
      { input: 'transmission_color', ...GLASS },
      { input: 'transmission_dispersion_scale', ...PARTED },
      { input: 'coat_color', ...COATS },
      { input: 'thin_film_weight', ...FILMS },
    ],
  ],
  [
    GLTF_PBR,
    [
      { input: 'anisotropy_strength', ...DRAWN_OUT },
      { input: 'attenuation_color', ...GLASS },
      { input: 'dispersion', ...PARTED },
      { input: 'iridescence', ...FILMS },
    ],
  ],
]);

/** An input that says how much there is of a channel, and what it is where nothing is said. */
export interface Weight {
  channel: ChannelName;
  input: string;
  unsaid: number;
}

/** Weights of each kind of surface, by its specification. */
export const WEIGHTS = new Map<InputTable, readonly Weight[]>([
  [
    STANDARD_SURFACE,
    [
      { channel: 'baseColor', input: 'base', unsaid: 1 },
      { channel: 'emission', input: 'emission', unsaid: 0 },
      { channel: 'sheenColor', input: 'sheen', unsaid: 0 },
      { channel: 'subsurface', input: 'subsurface', unsaid: 0 },
    ],
  ],
  [
    OPEN_PBR,
    [
      { channel: 'baseColor', input: 'base_weight', unsaid: 1 },
      { channel: 'emission', input: 'emission_luminance', unsaid: 0 },
      { channel: 'sheenColor', input: 'fuzz_weight', unsaid: 0 },
      { channel: 'subsurface', input: 'subsurface_weight', unsaid: 0 },
    ],
  ],
  [GLTF_PBR, [{ channel: 'emission', input: 'emissive_strength', unsaid: 1 }]],
]);
