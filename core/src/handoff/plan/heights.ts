import type { Destination } from '../../destinations/profile.ts';
import { type Height, heightOf } from '../../materials/height.ts';
import type { ChannelInput } from './inputs.ts';

/** A height as it goes out: its amount and mid level, and what the stored numbers go through to fit them. */
export interface WrittenHeight extends Height {
  /** stored' = gain x stored + offset. */
  gain: number;
  offset: number;
  /** Numbers below the middle have no place and are cut. */
  cut: boolean;
}

/**
 * Brings a height map to the destination's mid level. With the source's mid m, amount a and the wanted mid w
 * the stored numbers become w + k (s - m) and the amount a / k, so that amount x (stored - mid) stays the
 * same; k is the largest that keeps the numbers in 0..1. A map that also moves inwards loses that where the
 * middle is 0.
 */
export function writtenHeight(
  { value, map }: ChannelInput,
  { heightMid, format }: Pick<Destination, 'heightMid' | 'format'>,
): WrittenHeight {
  const { amount, mid } = map ? heightOf(value, map) : { amount: 0, mid: 0 };
  if (heightMid === null || format === 'gltf' || Math.abs(heightMid - mid) < 1e-9)
    return { amount, mid, gain: 1, offset: 0, cut: false };
  const k =
    heightMid === 0
      ? 1 / Math.max(1e-6, 1 - mid)
      : Math.min(mid === 0 ? Infinity : heightMid / mid, (1 - heightMid) / Math.max(1e-6, 1 - mid));
  return {
    amount: amount / k,
    mid: heightMid,
    gain: k,
    offset: heightMid - k * mid,
    cut: heightMid === 0 && mid > 0,
  };
}
