import { sameLaying, sameReading } from '../../scene/mapUse.ts';
import {
  type ChannelName,
  COLOUR_CHANNELS,
  type MapUse,
  type Material,
  type Rgb,
} from '../../scene/material.ts';
import { completeParams, type Params, type Recipe, type RecipeInput } from './recipe.ts';
import { colourReader, scalarReader } from './rows.ts';

/** How images that are taken together lie, seen from the first of them. */
export interface Laying {
  /** Channels whose pixels lie elsewhere, and meet the first one's nowhere. */
  elsewhere: ChannelName[];
  /** Channels that go on otherwise beyond the edges of their image. */
  beyond: ChannelName[];
}

/** How the images lie that a recipe takes together; those that it takes each for itself may lie as they like. */
export function layingOf(
  material: Material,
  { together, params, reads }: Pick<Recipe, 'together' | 'params' | 'reads'>,
  given: Params = {},
): Laying {
  if (!together) return { elsewhere: [], beyond: [] };
  const uses = reads(material, completeParams(params, given)).flatMap(
    (channel): { channel: ChannelName; map: MapUse }[] => {
      const map = material.channels[channel]?.map;
      return map ? [{ channel, map }] : [];
    },
  );
  const others = uses.slice(1).filter(({ map }) => !sameReading(map, uses[0].map));
  const named = (list: typeof others) => list.map(({ channel }) => channel);
  return {
    elsewhere: named(others.filter(({ map }) => !sameLaying(map, uses[0].map))),
    beyond: named(others.filter(({ map }) => sameLaying(map, uses[0].map))),
  };
}

/** A channel as the mean of what its image holds, which is right nowhere and wrong by little. */
export function byMean(channel: ChannelName, input: RecipeInput): RecipeInput {
  const { pixels } = input;
  if (!pixels) return input;
  const width = COLOUR_CHANNELS.has(channel) ? 3 : 1;
  const read = (width === 3 ? colourReader : scalarReader)(input, pixels);
  const row = new Float64Array(pixels.width * width);
  const sums = [0, 0, 0];
  for (let y = 0; y < pixels.height; y += 1) {
    read(y, row);
    for (let i = 0; i < row.length; i += 1) sums[i % width] += row[i];
  }
  const means = sums.map((sum) => sum / (pixels.width * pixels.height)) as Rgb;
  return { value: width === 3 ? means : means[0], map: null, pixels: null };
}
