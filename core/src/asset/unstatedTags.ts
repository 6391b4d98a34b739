import { spaceOfChromaticities } from '../colour/primaries.ts';
import { tagOf } from '../maps/encodingState.ts';
import { nameSpace } from '../maps/nameSpace.ts';
import {
  type ChannelName,
  COLOUR_CHANNELS,
  type ColourSpace,
  type MapUse,
  type Material,
} from '../scene/material.ts';
import type { AssetImage, ParcelImage } from './asset.ts';

/**
 * What no file states is no statement: colour uses whose model says nothing of their space are read as their
 * image says by its header or name, floats without a word as linear Rec.709. Uses that are stated, and
 * integers, stay as they are. The same materials come back where nothing changes.
 */
export function tagUnstated(
  materials: readonly Material[],
  images: readonly AssetImage[],
  files: readonly ParcelImage[],
): Material[] {
  return tagged(materials, images, files, fittingSpace);
}

/**
 * What a reader of USD takes images for whose space is left to them (`auto`): sRGB with 8 bits and three
 * components or four, else numbers as they are stored. So is a package read; what is taken in goes by what the
 * channel needs.
 */
export function tagAsUsdReads(
  materials: readonly Material[],
  images: readonly AssetImage[],
  files: readonly ParcelImage[],
): Material[] {
  return tagged(materials, images, files, (_, { space, spaceFrom }, file) => {
    if (spaceFrom !== 'unstated' || !file?.info) return null;
    const { bitDepth, components, floating } = file.info;
    const read = bitDepth === 8 && components >= 3 && !floating ? 'srgb_rec709_scene' : 'data';
    return read === space ? null : read;
  });
}

/** The space of a use in place of its own; null where it is to stay as it is. */
type SpaceOf = (channel: ChannelName, use: MapUse, file: ParcelImage | undefined) => ColourSpace | null;

function tagged(
  materials: readonly Material[],
  images: readonly AssetImage[],
  files: readonly ParcelImage[],
  spaceOf: SpaceOf,
): Material[] {
  const byPath = new Map(files.map((file) => [file.path, file]));
  const byKey = new Map(images.map(({ key, resolved }) => [key, resolved]));
  return materials.map((material) => {
    let changed = false;
    const channels: Material['channels'] = {};
    for (const [name, channel] of Object.entries(material.channels) as [
      ChannelName,
      NonNullable<Material['channels'][ChannelName]>,
    ][]) {
      const space = channel.map && spaceOf(name, channel.map, byPath.get(byKey.get(channel.map.image) ?? ''));
      changed ||= Boolean(space);
      channels[name] = channel.map && space ? { ...channel, map: { ...channel.map, space } } : channel;
    }
    return changed ? { ...material, channels } : material;
  });
}

function fittingSpace(
  channel: ChannelName,
  { space, spaceFrom, component }: MapUse,
  file: ParcelImage | undefined,
): ColourSpace | null {
  if (spaceFrom !== 'unstated' || !COLOUR_CHANNELS.has(channel) || component === 'a' || !file?.info?.floating)
    return null;
  const named = nameSpace(file.path);
  const linear = spaceOfChromaticities(file.info.chromaticities) ?? named?.linear ?? 'lin_rec709_scene';
  const fitting = tagOf(named?.state ?? 'linear', linear).space;
  return fitting === space ? null : fitting;
}
