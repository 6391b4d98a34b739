import { MANY_COLOURS, type PixelFacts } from '../maps/pixelFacts.ts';
import type { AssetSource } from './asset.ts';

const MOST_COLOURS = 160;
const FLAT = 0.7;
const POINTS = 0.8;

/**
 * Few flat colours that faces take from single points: a palette. Null where the image is none for this
 * material.
 */
export function paletteUse(
  { pointUvs = {} }: Pick<AssetSource, 'pointUvs'>,
  material: string,
  { colours, flat }: PixelFacts,
): { colours: number; points: number } | null {
  const points = pointUvs[material] ?? 0;
  if (points < POINTS || flat < FLAT || colours < 2 || colours > Math.min(MOST_COLOURS, MANY_COLOURS - 1))
    return null;
  return { colours, points };
}
