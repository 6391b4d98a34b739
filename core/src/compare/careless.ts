import { type ChannelName, COLOUR_CHANNELS, type Material } from '../scene/material.ts';

/**
 * The materials as a careless reader sees them: data read through the sRGB curve, normals pointing the other
 * way, alpha ignored. For comparison, to see what the settings of a destination guard against.
 */
export function readCarelessly(materials: readonly Material[]): Material[] {
  return materials.map((material) => ({
    ...material,
    alphaMode: 'opaque',
    channels: Object.fromEntries(
      Object.entries(material.channels).map(([name, channel]) => {
        const { map } = channel;
        if (!map) return [name, channel];
        if (name === 'normal')
          return [name, { ...channel, map: { ...map, normalY: map.normalY === 'Y+' ? 'Y-' : 'Y+' } }];
        if (COLOUR_CHANNELS.has(name as ChannelName)) return [name, channel];
        return [name, { ...channel, map: { ...map, space: 'srgb_rec709_scene' as const } }];
      }),
    ),
  }));
}
