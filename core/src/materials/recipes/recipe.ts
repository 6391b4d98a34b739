import type { PixelBuffer } from '../../images/pixelBuffer.ts';
import type {
  Channel,
  ChannelName,
  ColourSpace,
  MapUse,
  Material,
  NormalDirection,
  Rgb,
  Workflow,
} from '../../scene/material.ts';

/** What a person sets before new images are made: numbers and choices by key. */
export type Params = Record<string, number | string>;

/** A number that a recipe asks for, with its range and unit. */
export interface NumberParam {
  key: string;
  title: string;
  min: number;
  max: number;
  step: number;
  fallback: number;
  unit: string;
}

/** A choice that a recipe asks for. */
export interface ChoiceParam {
  key: string;
  title: string;
  choices: readonly { value: string; title: string }[];
  fallback: string;
}

/** One parameter of a recipe. */
export type ParamDefinition = NumberParam | ChoiceParam;

/** One channel of the material as a recipe reads it. `pixels` is null where the channel has no map. */
export interface RecipeInput {
  value: number | Rgb;
  map: MapUse | null;
  pixels: PixelBuffer | null;
}

/** Channels of the material that a recipe reads. */
export type RecipeInputs = Partial<Record<ChannelName, RecipeInput>>;

/** An image that a recipe made, for one channel. */
export interface MadeImage {
  channel: ChannelName;
  pixels: PixelBuffer;
  space: ColourSpace;
  /** The use whose UV set, transform and wrapping it takes over. */
  like: MapUse;
  normalY?: NormalDirection;
}

/**
 * What a slot holds afterwards: a made image, an image of before read in another way, a value alone, or
 * nothing.
 */
export interface MadeSlot {
  channel: ChannelName;
  /** Null empties the slot. */
  value: Channel['value'] | null;
  /** `made` for the made image of this channel; or that of another one, read as the use says. */
  map: MapUse | 'made' | { made: ChannelName; use: MapUse } | null;
}

/** A number worth knowing about the result. */
export interface Figure {
  title: string;
  value: number;
  unit: '' | '%' | 'px';
  /** What it is the number of, for who decides by it. */
  of?: 'residual';
  /** How it is gathered over tiles: the mean unless told. */
  over?: 'most';
}

/** What a recipe makes: images, what goes into which slot, and figures about how well it did. */
export interface RecipeResult {
  images: MadeImage[];
  slots: MadeSlot[];
  workflow?: Workflow;
  /** Of legacy materials; null where it goes. */
  exponent?: number | null;
  figures: Figure[];
  /** Where the figures are large: bright is much. */
  heat?: { title: string; pixels: PixelBuffer };
}

/** Told now and then with the share that is done; may throw to stop the work. */
export type Progress = (share: number) => Promise<void> | void;

/** How new images come from a material's own. The originals stay as they are. */
export interface Recipe {
  id: string;
  title: string;
  /** One sentence on what comes out. */
  does: string;
  params: readonly ParamDefinition[];
  /** Why it cannot be done with this material, in words; null where it can. */
  refuses(material: Material, params?: Params): string | null;
  /** Whether pixels of the channels that it reads go together, one by one, rather than each for itself. */
  together?: true;
  /** Channels whose pixels it needs. */
  reads(material: Material, params: Params): ChannelName[];
  make(material: Material, inputs: RecipeInputs, params: Params, progress: Progress): Promise<RecipeResult>;
}

/** The parameters with what was not given filled in and numbers kept in their ranges. */
export function completeParams(definitions: readonly ParamDefinition[], given: Params): Params {
  return Object.fromEntries(
    definitions.map((definition) => {
      const value = given[definition.key];
      if ('choices' in definition)
        return [
          definition.key,
          definition.choices.some((choice) => choice.value === value) ? value : definition.fallback,
        ];
      const number = typeof value === 'number' && Number.isFinite(value) ? value : definition.fallback;
      return [definition.key, Math.min(definition.max, Math.max(definition.min, number))];
    }),
  );
}

/** A channel of a material as an input without pixels, or the fallback where there is none. */
export function inputOf(inputs: RecipeInputs, channel: ChannelName, fallback: number | Rgb): RecipeInput {
  return inputs[channel] ?? { value: fallback, map: null, pixels: null };
}

/** The use of a channel whose image there is, else null. */
export function mapOf(material: Material, channel: ChannelName): MapUse | null {
  return material.channels[channel]?.map ?? null;
}

/** The opacity goes along where it is the alpha of a map that is made anew. */
export function opacityAlong(
  { channels: { opacity } }: Material,
  channel: ChannelName,
  map: MapUse,
): MadeSlot[] {
  if (opacity?.map?.image !== map.image || opacity.map.component !== 'a') return [];
  return [{ channel: 'opacity', value: opacity.value, map: { made: channel, use: opacity.map } }];
}
