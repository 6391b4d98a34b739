import { type AssetState, findImage, type LoadedAsset } from '../../asset/asset.ts';
import { conversionOf, isColourSpace } from '../../colour/spaces.ts';
import { type Destination, keepsFloats, type OutputMap } from '../../destinations/profile.ts';
import { type PixelBuffer, unitOf } from '../../images/pixelBuffer.ts';
import type { ImageInfo } from '../../images/probe.ts';
import type { Loss } from '../../scene/loss.ts';
import { readStored } from '../../scene/mapUse.ts';
import {
  type Channel,
  type ChannelName,
  COLOUR_CHANNELS,
  type MapUse,
  type Material,
} from '../../scene/material.ts';

const LIGHT = 'lin_rec709_scene';
/** What is beyond 0..1 by less is rounding: half a code of 8 bits where the sRGB curve is steepest. */
const SLACK = 1 / 510;

/** A state whose colours integers can hold, and what is cut for it. */
export interface InRange {
  state: AssetState;
  losses: Loss[];
}

/**
 * Colours that a destination's integers cannot hold: of floats, and of spaces with other primaries. What shines
 * brighter than 1 is divided by its brightest and has that as its value; everything else is cut to 0..1 of
 * Rec.709 and told. Throws the errors of decoding.
 */
export async function withColoursInRange(
  { state, images }: Pick<LoadedAsset, 'state' | 'images'>,
  destination: Destination,
  decode: (path: string) => Promise<PixelBuffer>,
): Promise<InRange> {
  const files = new Map(images.map((image) => [image.path, image]));
  const losses: Loss[] = [];
  const ranges = new Map<string, Promise<Range>>();
  const materials: Material[] = [];
  for (const material of state.materials) {
    const channels = { ...material.channels };
    for (const [name, channel] of Object.entries(channels) as [ChannelName, Channel][]) {
      const use = channel.map;
      const map = use && mapFor(name, use, destination);
      if (!use || !map) continue;
      const wide = (path: string) => isCut(use, files.get(path)?.info, map, destination);
      const paths = pathsOf(use, state).filter(wide);
      if (paths.length === 0) continue;
      const key = JSON.stringify([
        paths,
        lightOf(use),
        use.component,
        use.invert,
        use.gain,
        use.offset,
        use.exponent,
      ]);
      const range = ranges.get(key) ?? rangeOf(paths, use, decode);
      ranges.set(key, range);
      const { least, most } = await range;
      // Numbers under a curve are not divided by dividing the light.
      const isLinear = lightOf(use).startsWith('lin_') && (use.exponent ?? 1) === 1;
      const brightest = name === 'emission' && isLinear ? Math.max(1, most) : 1;
      const cut = least < -SLACK || most / brightest > 1 + SLACK;
      if (cut) losses.push({ code: 'colour.cut', material: material.key, channel: name });
      if (cut || brightest > 1 + SLACK) channels[name] = divided(channel, use, brightest, cut);
    }
    materials.push({ ...material, channels });
  }
  return { state: { ...state, materials }, losses };
}

/** The map that a colour goes out in, if it has the primaries of Rec.709; else null. */
function mapFor(channel: ChannelName, use: MapUse, destination: Destination): OutputMap | null {
  if (!COLOUR_CHANNELS.has(channel)) return null;
  if (use.space !== 'data' && !isColourSpace(use.space)) return null;
  const map = destination.maps.find(({ components }) =>
    components.some((component) => component.channel === channel),
  );
  return map && isColourSpace(map.space) && !conversionOf(map.space, LIGHT).matrix ? map : null;
}

function pathsOf(use: MapUse, state: AssetState): string[] {
  const image = findImage(state, use.image);
  if (!image?.resolved) return [];
  return image.tiles ? image.tiles.map(({ path }) => path) : [image.resolved];
}

/** Shaders take a colour that is tagged as data for light. */
function lightOf({ space }: MapUse) {
  return space === 'data' ? LIGHT : space;
}

/** Whether an image may hold more than what it goes out in. */
function isCut(
  use: MapUse,
  info: ImageInfo | null | undefined,
  map: OutputMap,
  destination: Destination,
): boolean {
  if (!info || map.type === 'exr' || map.depth === 'float') return false;
  if (info.floating) return !keepsFloats(map, destination);
  return conversionOf(lightOf(use), LIGHT).matrix !== null;
}

interface Range {
  least: number;
  most: number;
}

/** The least and the most of what images give, as linear Rec.709. */
async function rangeOf(
  paths: readonly string[],
  use: MapUse,
  decode: (path: string) => Promise<PixelBuffer>,
): Promise<Range> {
  const { decode: curve, matrix } = conversionOf(lightOf(use), LIGHT);
  const { exponent = 1, component } = use;
  const light = (stored: number) => {
    const value = readStored(use, stored);
    return curve(exponent === 1 ? value : Math.sign(value) * Math.abs(value) ** exponent);
  };
  let [least, most] = [Infinity, -Infinity];
  for (const path of paths) {
    const { data, components } = await decode(path);
    const unit = unitOf(data);
    const single = Math.max(0, 'rgba'.indexOf(component));
    const three = component === 'rgb' ? [0, 1, 2] : [single, single, single];
    const at = components < 3 ? [0, 0, 0] : three;
    for (let index = 0; index < data.length; index += components) {
      const [r, g, b] = at.map((k) => light(data[index + k] / unit));
      for (let row = 0; row < 3; row += 1) {
        const value = matrix
          ? matrix[row * 3] * r + matrix[row * 3 + 1] * g + matrix[row * 3 + 2] * b
          : [r, g, b][row];
        if (value < least) least = value;
        if (value > most) most = value;
      }
    }
  }
  return { least, most };
}

function divided({ value, source }: Channel, use: MapUse, by: number, cut: boolean): Channel {
  const scaled = typeof value === 'number' ? value * by : value.map((component) => component * by);
  return {
    source,
    value: scaled as Channel['value'],
    map: { ...use, gain: use.gain / by, offset: use.offset / by, ...(cut ? { cut } : {}) },
  };
}
