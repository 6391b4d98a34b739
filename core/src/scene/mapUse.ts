import type { MapUse } from './material.ts';

/** What happens to a stored number on its way to a channel. */
export type MapRange = Pick<MapUse, 'invert' | 'gain' | 'offset'>;

/** The number that a slot reads from a stored one: `(invert ? 1 - x : x) * gain + offset`. */
export function readStored({ invert, gain, offset }: MapRange, stored: number): number {
  return (invert ? 1 - stored : stored) * gain + offset;
}

/** The same of every number, in place. */
export function readAllStored(range: MapRange, values: Float32Array): Float32Array {
  const { invert, gain, offset } = range;
  if (!invert && gain === 1 && offset === 0) return values;
  for (let i = 0; i < values.length; i += 1) values[i] = readStored(range, values[i]);
  return values;
}

/** The same as `gain * x + offset`, for who knows no inversion: writers, and the shader. */
export function asLine({ invert, gain, offset }: MapRange): { gain: number; offset: number } {
  return invert ? { gain: -gain, offset: gain + offset } : { gain, offset };
}

/**
 * `1 - value * (what the use reads)` as a use with the value 1; nothing is computed anew, so nothing is lost.
 */
export function complementUse(value: number, map: MapUse): MapUse {
  if (value === 1 && map.gain === 1 && map.offset === 0) return { ...map, invert: !map.invert };
  return { ...map, gain: -value * map.gain, offset: 1 - value * map.offset };
}

/** Whether images of two uses lie in the same place: their pixels can be taken together, one by one. */
export function sameLaying(a: MapUse, b: MapUse): boolean {
  const lies = ({ uvSet, transform }: MapUse) => JSON.stringify([uvSet, transform]);
  return lies(a) === lies(b);
}

/** Whether they are read alike everywhere, beyond the edges of the images, too. */
export function sameReading(a: MapUse, b: MapUse): boolean {
  const reads = ({ wrap, filter }: MapUse) => JSON.stringify([wrap, filter]);
  return sameLaying(a, b) && reads(a) === reads(b);
}
