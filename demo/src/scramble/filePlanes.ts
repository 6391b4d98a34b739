import type { ChannelName } from '@kinkajou/core/scene/material';
import { decodeSrgb, encodeSrgb } from '@kinkajou/core/scene/transfer';
import type { ScrambleMaterial } from './assets.ts';
import type { PlaneSource, Scheme, SchemeFile } from './schemes.ts';

/** Pixels of one file, and which channels they are the truth of. */
export interface FileContent {
  components: 1 | 3 | 4;
  data: Uint8Array;
  truth: { channel: ChannelName; plane: Uint8Array }[];
}

/** Computes the pixels of one file of a scheme; null where the material has nothing for it. */
export function filePlanes(
  file: SchemeFile,
  { planes: painted }: ScrambleMaterial,
  scheme: Scheme,
): FileContent | null {
  const { rgb } = file;
  const planes = scheme.specGloss ? { ...painted, metalness: plausibleMetal(painted) } : painted;
  if (rgb === 'emission' && !planes.emission) return null;
  if (typeof rgb !== 'string' && rgb[0] === 'opacity' && !planes.opacity) return null;
  const truth: FileContent['truth'] = [];
  const tell = (channel: ChannelName, plane: Uint8Array) => {
    // What is the same all over is a value and needs no map.
    if (plane.some((value, i) => i >= 3 && value !== plane[i % 3])) truth.push({ channel, plane });
  };
  let data: Uint8Array;
  if (rgb === 'baseColor') {
    data = scheme.specGloss ? diffuseOf(planes) : planes.baseColor;
    tell('baseColor', planes.baseColor);
  } else if (rgb === 'normal' || rgb === 'normalDown') {
    data =
      rgb === 'normal' ? planes.normal : planes.normal.map((value, i) => (i % 3 === 1 ? 255 - value : value));
    tell('normal', planes.normal);
  } else if (rgb === 'emission') {
    data = planes.emission as Uint8Array;
    tell('emission', data);
  } else if (rgb === 'specular') {
    data = specularOf(planes);
    tell('metalness', planes.metalness);
  } else {
    const sources = rgb.map((source) => planeOf(source, planes));
    data = sources.length === 1 ? sources[0] : interleaved(sources);
    for (const source of new Set(rgb))
      if (source !== 'one') tell(source === 'gloss' ? 'roughness' : source, truthOf(source, planes));
  }
  if (truth.length === 0) return null;
  const components = data.length / planes.roughness.length === 1 ? 1 : 3;
  const cover =
    planes.opacity ?? (planes.clearBackground && file.alpha === 'cover' ? clearOutside(planes) : null);
  if (file.alpha === 'cover' && cover) {
    if (planes.opacity) tell('opacity', planes.opacity);
    return { components: 4, data: withAlpha(data, cover), truth };
  }
  if (file.alpha === 'gloss') {
    tell('roughness', planes.roughness);
    return { components: 4, data: withAlpha(data, inverted(planes.roughness)), truth };
  }
  return { components, data, truth };
}

type Planes = ScrambleMaterial['planes'];

function planeOf(source: PlaneSource, planes: Planes): Uint8Array {
  if (source === 'gloss') return inverted(planes.roughness);
  if (source === 'one') return new Uint8Array(planes.roughness.length).fill(255);
  return planes[source] as Uint8Array;
}

function truthOf(source: PlaneSource, planes: Planes): Uint8Array {
  return source === 'gloss' ? planes.roughness : (planes[source as 'roughness'] as Uint8Array);
}

function inverted(plane: Uint8Array): Uint8Array {
  return plane.map((value) => 255 - value);
}

function interleaved(planes: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(planes[0].length * planes.length);
  for (const [k, plane] of planes.entries())
    for (let i = 0; i < plane.length; i += 1) out[i * planes.length + k] = plane[i];
  return out;
}

function withAlpha(rgb: Uint8Array, alpha: Uint8Array): Uint8Array {
  const out = new Uint8Array(alpha.length * 4);
  for (let i = 0; i < alpha.length; i += 1)
    out.set([rgb[i * 3], rgb[i * 3 + 1], rgb[i * 3 + 2], alpha[i]], i * 4);
  return out;
}

/** Black base colour stands outside of the islands; its alpha is 0 there. */
function clearOutside({ baseColor, roughness }: Planes): Uint8Array {
  return roughness.map((_, i) =>
    baseColor[i * 3] + baseColor[i * 3 + 1] + baseColor[i * 3 + 2] === 0 ? 0 : 255,
  );
}

/**
 * Metal only where the base is as bright as metals are: a black metal and a black paint have the same diffuse
 * and specular.
 */
function plausibleMetal({ baseColor, metalness }: Planes): Uint8Array {
  return metalness.map((value, i) => {
    const brightest = Math.max(baseColor[i * 3], baseColor[i * 3 + 1], baseColor[i * 3 + 2]);
    return brightest > BRIGHT ? value : 0;
  });
}

/** 8-bit sRGB code, linear 0.2. */
const BRIGHT = 124;

/** diffuse = base (1 - metalness), in linear light. */
function diffuseOf({ baseColor, metalness }: Planes): Uint8Array {
  return baseColor.map((value, i) =>
    Math.round(255 * encodeSrgb(decodeSrgb(value / 255) * (1 - metalness[Math.floor(i / 3)] / 255))),
  );
}

/** specular = mix(0.04, base, metalness), in linear light. */
function specularOf({ baseColor, metalness }: Planes): Uint8Array {
  return baseColor.map((value, i) => {
    const metal = metalness[Math.floor(i / 3)] / 255;
    return Math.round(255 * encodeSrgb(0.04 * (1 - metal) + decodeSrgb(value / 255) * metal));
  });
}
