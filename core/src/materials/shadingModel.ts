import type { ChannelName, Material, Workflow } from '../scene/material.ts';
import { colourValue, scalarValue } from '../scene/material.ts';

/**
 * The shading model that a material's channels speak, whatever its file calls it: exporters write every
 * material as classic, and images arrive that were painted for another model. Metalness makes metal/rough; a
 * specular image with glossiness or roughness and without metalness makes spec/gloss; roughness without a
 * specular image makes metal/rough again. What is left is as the file says.
 */
export function shadingModelOf({ workflow, channels }: Pick<Material, 'workflow' | 'channels'>): Workflow {
  const has = (channel: ChannelName) =>
    channels[channel]?.map !== undefined && channels[channel]?.map !== null;
  const metal = channels.metalness;
  if (metal && (metal.map || scalarValue(metal.value) > 0)) return 'metalRough';
  const specular = has('specularColor');
  if (workflow === 'specGloss') return 'specGloss';
  // In metal/rough a specular image beside roughness tints what dielectrics reflect; beside gloss it is a
  // reflectance.
  if (workflow === 'metalRough')
    return specular && has('glossiness') && !has('roughness') ? 'specGloss' : 'metalRough';
  if (specular) return has('glossiness') || has('roughness') ? 'specGloss' : 'legacy';
  return metal || channels.roughness ? 'metalRough' : 'legacy';
}

/** Saturation from which a classic specular colour is wholly a metal's. */
const TINTED = 0.25;
/** Painted diffuse in linear light that is black to the eye, and what surely is not. */
const BLACK = [0.02, 0.08] as const;
/** Painted reflectance that may be, and that surely is, above any dielectric's highlight. */
const BRIGHT = [0.2, 0.4] as const;

/**
 * How far a classic diffuse and specular colour are a metal's, in 0..1. A classic specular colour is no
 * reflectance: a grey one is the strength of a highlight, a tinted one the colour of a metal; between the two
 * by saturation. In images (`painted`) a bright highlight on black is a metal too, since nothing else is
 * painted so.
 */
export function classicMetalShare(
  diffuse: ArrayLike<number>,
  specular: ArrayLike<number>,
  painted: boolean,
): number {
  const [most, least] = [
    Math.max(specular[0], specular[1], specular[2]),
    Math.min(specular[0], specular[1], specular[2]),
  ];
  if (most <= 0) return 0;
  const tint = Math.min(1, (most - least) / most / TINTED);
  if (!painted) return tint;
  const dark = 1 - ramp(Math.max(diffuse[0], diffuse[1], diffuse[2]), BLACK);
  return Math.max(tint, dark * ramp(most, BRIGHT));
}

function ramp(value: number, [from, to]: readonly [number, number]): number {
  return Math.min(1, Math.max(0, (value - from) / (to - from)));
}

/**
 * Whether a classic material's specular colour may be a metal's: an image of it, or a value that is tinted.
 */
export function mayBeClassicMetal({ channels }: Pick<Material, 'channels'>): boolean {
  const specular = channels.specularColor;
  if (!specular) return false;
  const colour = colourValue(specular.value);
  return specular.map !== null || classicMetalShare(colour, colour, false) > 0;
}
