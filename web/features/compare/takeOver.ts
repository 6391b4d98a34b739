import type { Edit } from '@kinkajou/core/asset/asset';
import type { ChannelName, Material, Rgb } from '@kinkajou/core/scene/material';

const ORIGIN = { from: 'hand' as const, detail: 'taken over from what came back' };

/**
 * A value of another asset as an edit of this one: an image of the slot gives way to it, a slot without one
 * gets it.
 */
export function takeOverEdit(
  material: string,
  channel: ChannelName,
  value: number | Rgb,
  materials: readonly Material[],
): Edit {
  const own = materials.find(({ key }) => key === material)?.channels[channel];
  if (own && !own.map) return { kind: 'setValues', slots: [{ material, channel }], value, origin: ORIGIN };
  return {
    kind: 'pasteSlots',
    slots: [{ material, channel, content: { value, map: null } }],
    origin: ORIGIN,
  };
}
