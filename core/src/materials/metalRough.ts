import type { AlphaMode, Channel, ChannelName, MapUse, Material, Rgb } from '../scene/material.ts';
import { reflectanceOfIndex, roughnessOfExponent } from '../scene/shading.ts';
import { mayBeClassicMetal, shadingModelOf } from './shadingModel.ts';
import { solveSurface } from './solveSurface.ts';
import { DIELECTRIC } from './specGloss.ts';

/** A scalar or colour input with its optional map; the map's number times the value is what shades. */
export interface Input<T extends number | Rgb> {
  value: T;
  map: MapUse | null;
}

/** A material as a metal/rough shader reads it, whatever its own workflow. */
export interface MetalRough {
  baseColor: Input<Rgb>;
  metalness: Input<number>;
  roughness: Input<number>;
  normal: MapUse | null;
  bump: (Input<number> & { map: MapUse }) | null;
  occlusion: MapUse | null;
  emission: Input<Rgb>;
  opacity: Input<number>;
  transmission: Input<number>;
  coat: Input<number>;
  coatRoughness: Input<number>;
  sheenColor: Input<Rgb>;
  sheenRoughness: number;
  /** Weight of the reflection at normal incidence, on top of the index. */
  specular: Input<number>;
  /** What tints the reflection of dielectrics at normal incidence. */
  specularColor: Input<Rgb>;
  ior: number;
  /** In scene units; 0 for thin walls. */
  thickness: number;
  /** Amount and mid level lie in the use's gain and offset and in the value, in scene units. */
  height: (Input<number> & { map: MapUse }) | null;
  alphaMode: AlphaMode;
  alphaCutoff: number;
  doubleSided: boolean;
}

/** Cloth, where a sheen has no roughness of its own. */
export const USUAL_SHEEN = 0.5;

/** What a metal/rough reading leaves out, by channel; the handoff reports it. */
const CARRIED: ReadonlySet<ChannelName> = new Set([
  'baseColor',
  'metalness',
  'roughness',
  'glossiness',
  'normal',
  'occlusion',
  'emission',
  'opacity',
  'transmission',
  'coat',
  'coatRoughness',
  'sheenColor',
  'ior',
]);
const HIGHLIGHTS: ReadonlySet<ChannelName> = new Set(['specular', 'specularColor']);

/**
 * Reads a material as metal/rough. Glossiness becomes 1 - glossiness; a legacy exponent becomes roughness by
 * `roughnessOfExponent`; with none of them roughness is 1, glTF's default. Metalness defaults to 0. A
 * spec/gloss or classic material of values alone is converted; one with maps of colour or specular keeps its
 * diffuse as the base, since pixels have to be converted one by one.
 */
export function toMetalRough(material: Material): MetalRough {
  const { channels, workflow } = material;
  return {
    ...(convertedValues(material) ?? {
      baseColor: colourInput(channels.baseColor, [1, 1, 1]),
      metalness: scalarInput(channels.metalness, 0),
    }),
    roughness: roughnessInput(material),
    normal: channels.normal?.map ?? null,
    bump: channels.bump?.map ? { value: scalar(channels.bump.value), map: channels.bump.map } : null,
    occlusion: channels.occlusion?.map ?? null,
    emission: colourInput(channels.emission, [0, 0, 0]),
    opacity: scalarInput(channels.opacity, 1),
    transmission: scalarInput(channels.transmission, 0),
    coat: scalarInput(channels.coat, 0),
    coatRoughness: scalarInput(channels.coatRoughness, 0),
    sheenColor: colourInput(channels.sheenColor, [0, 0, 0]),
    sheenRoughness: Number(material.extras.sheenRoughness ?? USUAL_SHEEN),
    specular: workflow === 'metalRough' ? scalarInput(channels.specular, 1) : { value: 1, map: null },
    // Beside gloss alone it is a reflectance, whatever the file calls the material.
    specularColor:
      workflow === 'metalRough' && shadingModelOf(material) === 'metalRough'
        ? colourInput(channels.specularColor, [1, 1, 1])
        : { value: [1, 1, 1], map: null },
    ior: plausibleIndex(channels.ior),
    thickness: material.thickness ?? 0,
    height: channels.height?.map ? { value: scalar(channels.height.value), map: channels.height.map } : null,
    alphaMode: material.alphaMode,
    alphaCutoff: material.alphaCutoff,
    doubleSided: material.doubleSided,
  };
}

/**
 * Base colour and metalness of spec/gloss and classic materials of values alone; null where there is nothing
 * to convert.
 */
function convertedValues(material: Material): Pick<MetalRough, 'baseColor' | 'metalness'> | null {
  const { channels } = material;
  if (!channels.specularColor || channels.baseColor?.map || channels.specularColor.map) return null;
  const model = shadingModelOf(material);
  if (model === 'metalRough' || (model === 'legacy' && !mayBeClassicMetal(material))) return null;
  const [diffuse, specular] = [
    colourInput(channels.baseColor, [1, 1, 1]).value,
    colourInput(channels.specularColor, [0, 0, 0]).value,
  ];
  const { baseColor, metalness } = solveSurface(
    diffuse,
    specular,
    model === 'legacy' ? 'classic' : 'reflectance',
  );
  return { baseColor: { value: baseColor, map: null }, metalness: { value: metalness, map: null } };
}

/** Channels with a map that a metal/rough reading has no place for. */
export function channelsLeftOut({ channels, workflow }: Material): ChannelName[] {
  const names = Object.keys(channels) as ChannelName[];
  // Beside classic colours the same names mean a highlight.
  const isCarried = (name: ChannelName) =>
    CARRIED.has(name) || (workflow === 'metalRough' && HIGHLIGHTS.has(name));
  return names.filter((name) => channels[name]?.map && !isCarried(name));
}

function roughnessInput({ channels, exponent }: Material): Input<number> {
  if (channels.roughness) return scalarInput(channels.roughness, 1);
  const glossiness = channels.glossiness;
  if (glossiness) {
    const value = scalar(glossiness.value);
    if (!glossiness.map) return { value: 1 - value, map: null };
    // 1 - value * (gain * x + offset), with x already inverted where the use says so.
    const { gain, offset } = glossiness.map;
    return { value: 1, map: { ...glossiness.map, gain: -value * gain, offset: 1 - value * offset } };
  }
  return { value: exponent === null ? 1 : roughnessOfExponent(exponent), map: null };
}

function scalarInput(channel: Channel | undefined, fallback: number): Input<number> {
  return channel ? { value: scalar(channel.value), map: channel.map } : { value: fallback, map: null };
}

function colourInput(channel: Channel | undefined, fallback: Rgb): Input<Rgb> {
  if (!channel) return { value: fallback, map: null };
  const { value } = channel;
  return { value: typeof value === 'number' ? [value, value, value] : value, map: channel.map };
}

function scalar(value: number | Rgb): number {
  return typeof value === 'number' ? value : (value[0] + value[1] + value[2]) / 3;
}

function plausibleIndex(channel: Channel | undefined): number {
  const value = channel ? scalar(channel.value) : PLAIN_INDEX;
  return value >= 1 ? value : PLAIN_INDEX;
}

/** Of most that is no metal, and of shaders that say nothing of it. */
const PLAIN_INDEX = 1.5;

/** What a metal/rough material's dielectrics reflect at normal incidence by their index. */
export function dielectricOf(material: Material): number {
  const ior = plausibleIndex(material.channels.ior);
  // Of 1.5 exactly what every shader has as its constant.
  return ior === PLAIN_INDEX ? DIELECTRIC : reflectanceOfIndex(ior);
}

/** The same by its tint and its weight too: no tint reflects more than all. */
export function tintedDielectric(byIndex: number, tint: number, weight: number): number {
  return Math.min(1, byIndex * tint) * Math.min(1, Math.max(0, weight));
}
