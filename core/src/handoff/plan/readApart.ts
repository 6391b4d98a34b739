import {
  type ComponentRecipe,
  type Destination,
  type OutputMap,
  outputMap,
} from '../../destinations/profile.ts';
import { sameReading } from '../../scene/mapUse.ts';
import type { ChannelName, MapUse } from '../../scene/material.ts';
import type { ChannelInputs } from './inputs.ts';

/** An image that a destination asks for, of the channels that are read alike. */
export interface AlikeMap {
  map: OutputMap;
  inputs: ChannelInputs;
  /** Channels that it asked for, and that have images of their own now. */
  apart: ChannelName[];
}

/**
 * An image of several channels is read in one way. What is read in another one (occlusion over a second UV set,
 * say) goes out as an image of its own; glTF has a place for occlusion alone, and for the weight of reflections.
 */
export function readApart(
  map: OutputMap,
  inputs: ChannelInputs,
  { format }: Destination,
  hasAlpha: boolean,
): AlikeMap[] {
  const recipes = [...map.components, ...(map.alpha && hasAlpha ? [map.alpha] : [])];
  const useOf = ({ channel }: ComponentRecipe) => inputs[channel]?.map ?? null;
  const mapped = recipes.filter((recipe) => useOf(recipe));
  if (mapped.length === 0) return [{ map, inputs, apart: [] }];
  // Occlusion makes way for what looks are made of.
  const leading = useOf(mapped.find(({ channel }) => channel !== 'occlusion') ?? mapped[0]);
  const other = mapped.filter((recipe) => !sameReading(useOf(recipe) as MapUse, leading as MapUse));
  const apart = [...new Set(other.map(({ channel }) => channel))].filter(
    (channel) => format !== 'gltf' || channel === 'occlusion' || channel === 'specular',
  );
  if (apart.length === 0) return [{ map, inputs, apart }];
  const staying = Object.fromEntries(
    Object.entries(inputs).filter(([channel]) => !apart.includes(channel as ChannelName)),
  );
  const own = apart.map((channel): AlikeMap => {
    const { space, type, depth } = map;
    // What alpha holds is data.
    const isAlpha = map.components.every((recipe) => recipe.channel !== channel);
    const single = recipes.filter((recipe) => recipe.channel === channel);
    // In alpha it is read by glTF, wherever it lies.
    const stays = format === 'gltf' && isAlpha;
    return {
      map: outputMap(channel, channel.toLowerCase(), stays ? [...map.components, ...single] : single, {
        space: isAlpha ? 'data' : space,
        type,
        depth,
      }),
      inputs: stays ? { [channel]: inputs[channel] } : inputs,
      apart: [],
    };
  });
  return [{ map, inputs: staying, apart }, ...own];
}
