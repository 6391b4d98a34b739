import { expect } from 'vitest';
import type { PixelBuffer } from '../images/pixelBuffer.ts';
import {
  completeParams,
  type Params,
  type RecipeInputs,
  type RecipeResult,
} from '../materials/recipes/recipe.ts';
import { recipeOf } from '../materials/recipes/recipes.ts';
import {
  type ChannelName,
  createMapUse,
  createMaterial,
  type MapUse,
  type Material,
  type Workflow,
} from '../scene/material.ts';

/** Channels by value, pixels and how they are read. */
export type Slots = Partial<
  Record<
    ChannelName,
    { value?: number | [number, number, number]; pixels?: PixelBuffer; use?: Partial<MapUse> }
  >
>;

/** A material with those channels, and what a recipe reads of it. */
export function materialOf(workflow: Workflow, slots: Slots): { material: Material; inputs: RecipeInputs } {
  const material = createMaterial('Rail', workflow);
  const inputs: RecipeInputs = {};
  for (const [name, { value = 1, pixels = null, use = {} }] of Object.entries(slots)) {
    const channel = name as ChannelName;
    const map = pixels && createMapUse(use.image ?? `${channel}.png`, channel, use);
    material.channels[channel] = { value, map, source: { from: 'file', detail: '' } };
    inputs[channel] = { value, map, pixels };
  }
  return { material, inputs };
}

/** What a recipe makes of them; it must not refuse. */
export async function make(
  id: string,
  workflow: Workflow,
  slots: Slots,
  params: Params = {},
): Promise<RecipeResult> {
  const recipe = recipeOf(id);
  const { material, inputs } = materialOf(workflow, slots);
  expect(recipe.refuses(material)).toBeNull();
  return recipe.make(material, inputs, completeParams(recipe.params, params), () => {});
}

/** Codes as an image; lists are 8-bit. */
export const image = (
  width: number,
  height: number,
  components: number,
  data: PixelBuffer['data'] | number[],
): PixelBuffer => ({
  width,
  height,
  components,
  data: Array.isArray(data) ? Uint8Array.from(data) : data,
});
/** The image that was made for a channel. */
export const made = (result: RecipeResult, channel: ChannelName) =>
  result.images.find((one) => one.channel === channel)?.pixels as PixelBuffer;
/** What a channel holds afterwards. */
export const slot = (result: RecipeResult, channel: ChannelName) =>
  result.slots.find((one) => one.channel === channel);
