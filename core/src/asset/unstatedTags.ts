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
  const byPath = new Map(files.map((file) => [file.path, file]));
  const byKey = new Map(images.map(({ key, resolved }) => [key, resolved]));
  return materials.map((material) => {
    let changed = false;
    const channels: Material['channels'] = {};
    for (const [name, channel] of Object.entries(material.channels) as [
      ChannelName,
      NonNullable<Material['channels'][ChannelName]>,
    ][]) {
      const space =
        channel.map && fittingSpace(name, channel.map, byPath.get(byKey.get(channel.map.image) ?? ''));
      changed ||= Boolean(space);
      channels[name] = channel.map && space ? { ...channel, map: { ...channel.map, space } } : channel;
    }
    return changed ? { ...material, channels } : material;
  });
}

/** Null where the use is to stay as it is. */
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
