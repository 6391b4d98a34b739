import type { Channel, MapUse } from '../scene/material.ts';

/**
 * How a height map moves a surface along its normal: `amount` x (read - `mid`), read being the stored number,
 * turned where the use inverts it.
 */
export interface Height {
  /** What the range from 0 to 1 stands for, in scene units. */
  amount: number;
  /** The number that moves nothing. */
  mid: number;
}

/** Reads amount and mid level out of a height channel, whose number is value x (gain x read + offset). */
export function heightOf(value: Channel['value'], { gain, offset }: MapUse): Height {
  const factor = typeof value === 'number' ? value : value[0];
  return { amount: factor * gain, mid: gain === 0 || offset === 0 ? 0 : -offset / gain };
}

/** The channel for an amount and a mid level; the map's own gain becomes 1. */
export function withHeight(map: MapUse, { amount, mid }: Height): Pick<Channel, 'map'> & { value: number } {
  return { value: amount, map: { ...map, gain: 1, offset: mid === 0 ? 0 : -mid } };
}
