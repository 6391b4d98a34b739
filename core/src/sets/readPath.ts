import type { AssetSource } from '../asset/asset.ts';
import { isMade } from '../asset/madeFiles.ts';
import type { ChannelName, Material } from '../scene/material.ts';

/**
 * The file that each slot of a material reads; where it reads what was made of the image that the model names
 * there, that image.
 */
export function createReadPaths(
  { materials }: Pick<AssetSource, 'materials'>,
  resolvedPath: (key: string) => string | null,
): (material: Material) => Map<ChannelName, string> {
  const written = channelsByKey(materials);
  return ({ key, channels }) => {
    const paths = new Map<ChannelName, string>();
    for (const [name, channel] of Object.entries(channels) as [
      ChannelName,
      (typeof channels)[ChannelName],
    ][]) {
      if (!channel?.map) continue;
      const path = resolvedPath(channel.map.image);
      const before = written.get(key)?.[name]?.map;
      const origin = path && before && isMade(path) ? (resolvedPath(before.image) ?? path) : path;
      if (origin) paths.set(name, origin);
    }
    return paths;
  };
}

const known = new WeakMap<readonly Material[], ReadonlyMap<string, Material['channels']>>();

/** Asked for each material of an asset in turn. */
function channelsByKey(materials: readonly Material[]): ReadonlyMap<string, Material['channels']> {
  const existing = known.get(materials);
  if (existing) return existing;
  const byKey = new Map(materials.map(({ key, channels }) => [key, channels]));
  known.set(materials, byKey);
  return byKey;
}
