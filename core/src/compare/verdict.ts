import type { ChannelDifference } from './compareMaterials.ts';

/** The channels of one material with their numbers. */
export interface MaterialDifference {
  material: string;
  channels: ChannelDifference[];
}

/** Unlit base colours count as equal up to one and a half steps of 8 bits. */
export const ROUNDING = 1.5 / 255;

/** Whether the unlit base colours are the same within rounding, and the largest distance found, in 0..1. */
export function baseColourVerdict(differences: readonly MaterialDifference[]): {
  equal: boolean;
  largest: number;
  compared: number;
} {
  const bases = differences.flatMap(({ channels }) =>
    channels.filter(({ channel }) => channel === 'baseColor'),
  );
  const largest = bases.reduce((most, { largest: largestOf }) => Math.max(most, largestOf), 0);
  return { equal: largest <= ROUNDING, largest, compared: bases.length };
}
