import {
  type ChannelName,
  COLOUR_CHANNELS,
  colourValue,
  type Material,
  type Rgb,
} from '../../scene/material.ts';
import { opacityAlong, type Params, type Recipe, type RecipeInput } from './recipe.ts';
import { isBeyondWhite, rewriteColour } from './rows.ts';

/**
 * The factor of a colour map multiplied into its pixels, so that every reader shows the same; the factor is
 * white afterwards. What shines brighter than white keeps its strength.
 */
export const bakeTint: Recipe = {
  id: 'bake-tint',
  title: 'Bake the tint',
  does: 'The colour factor goes into the pixels of the map, in linear light; the factor is white afterwards; light keeps its strength.',
  params: [],
  refuses: (material) =>
    tinted(material).length === 0 ? 'no colour map has a factor that is not white' : null,
  reads: (material, _params: Params) => tinted(material),
  async make(material, inputs, _params, progress) {
    const channels = tinted(material).filter((channel) => inputs[channel]?.pixels);
    const images = [];
    let [clipped, pixels] = [0, 0];
    for (const [index, channel] of channels.entries()) {
      // The factor is part of the input, so that reading already multiplies by it.
      const input = inputs[channel] as RecipeInput & {
        pixels: NonNullable<RecipeInput['pixels']>;
        map: NonNullable<RecipeInput['map']>;
      };
      const share = (done: number) => progress((index + done) / channels.length);
      const strength = strengthOf(channel, input.value);
      const value = colourValue(input.value).map((component) => component / strength) as Rgb;
      const out = await rewriteColour({ ...input, value }, false, share, (row) => {
        for (let offset = 0; offset < row.length; offset += 3) if (isBeyondWhite(row, offset)) clipped += 1;
      });
      if (out.data instanceof Float32Array) clipped = 0;
      pixels += out.width * out.height;
      images.push({ channel, pixels: out, space: input.map.space, like: input.map });
    }
    return {
      images,
      slots: channels.flatMap((channel) => [
        {
          channel,
          value: Array(3).fill(strengthOf(channel, inputs[channel]?.value ?? 1)) as Rgb,
          map: 'made' as const,
        },
        ...opacityAlong(material, channel, inputs[channel]?.map as NonNullable<RecipeInput['map']>),
      ]),
      figures: [
        {
          title: 'of the pixels were cut at white',
          value: pixels === 0 ? 0 : (clipped / pixels) * 100,
          unit: '%' as const,
        },
      ],
    };
  },
};

/** How much brighter than white something shines, which pixels cannot say; 1 where it does not. */
function strengthOf(channel: ChannelName, value: number | Rgb): number {
  return channel === 'emission' ? Math.max(1, ...colourValue(value)) : 1;
}

function tinted({ channels }: Material): ChannelName[] {
  return [...COLOUR_CHANNELS].filter((channel) => {
    const content = channels[channel];
    if (!content?.map) return false;
    const strength = strengthOf(channel, content.value);
    return colourValue(content.value).some((component) => Math.abs(component / strength - 1) > 1e-3);
  });
}
