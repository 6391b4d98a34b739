import { type Input, type MetalRough, toMetalRough } from '../../materials/metalRough.ts';
import { complementUse } from '../../scene/mapUse.ts';
import type { ChannelName, Material, Rgb, Workflow } from '../../scene/material.ts';
import { scalarValue } from '../../scene/material.ts';

/** What one channel gets: a value, a map that multiplies it, or both. */
export type ChannelInput = Input<number | Rgb>;
/** What each channel of a material is, in one shading model; channels that it does not have are left out. */
export type ChannelInputs = Partial<Record<ChannelName, ChannelInput>>;

const KEPT_ALWAYS = [
  'normal',
  'bump',
  'height',
  'occlusion',
  'emission',
  'opacity',
  'ior',
  'transmission',
  'coat',
  'coatRoughness',
  'sheenColor',
] as const;

/**
 * Reads a material as a destination's shading model sees it. Metal/rough materials also have a glossiness,
 * which is their roughness read inverted, for destinations that want it so. Spec/gloss and legacy take the
 * channels as the material has them; bring it to that model first.
 */
export function channelInputs(
  material: Material,
  workflow: Workflow,
  shading: MetalRough = toMetalRough(material),
): ChannelInputs {
  const inputs: ChannelInputs = {};
  for (const channel of KEPT_ALWAYS) {
    const existing = material.channels[channel];
    if (existing) inputs[channel] = { value: existing.value, map: existing.map };
  }
  if (workflow === 'metalRough') {
    inputs.baseColor = shading.baseColor;
    inputs.metalness = shading.metalness;
    inputs.roughness = shading.roughness;
    inputs.glossiness = complement(shading.roughness);
    if (material.channels.specular) inputs.specular = shading.specular;
    if (material.channels.specularColor) inputs.specularColor = shading.specularColor;
    return inputs;
  }
  for (const channel of ['baseColor', 'specularColor', 'glossiness'] as const) {
    const cached = material.channels[channel];
    if (cached) inputs[channel] = { value: cached.value, map: cached.map };
  }
  if (!inputs.glossiness) inputs.glossiness = complement(shading.roughness);
  return inputs;
}

function complement({ value, map }: ChannelInput): ChannelInput {
  const number = scalarValue(value);
  return map ? { value: 1, map: complementUse(number, map) } : { value: 1 - number, map: null };
}
