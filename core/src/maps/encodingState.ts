import { linearOf, PRIMARIES, type Primaries } from '../colour/primaries.ts';
import type { ColourSpace, MapUse } from '../scene/material.ts';

/**
 * How the numbers of a float colour map stand to light: `linear`; `encoded`, when a curve was applied and not
 * undone; `encodedTwice`, when it was applied twice; `darkened`, when it was undone once too often.
 */
export type EncodingState = 'linear' | 'encoded' | 'encodedTwice' | 'darkened';

/** Words for each state of encoding. */
export const STATE_WORDS: Record<EncodingState, string> = {
  linear: 'linear',
  encoded: 'still encoded',
  encodedTwice: 'encoded twice',
  darkened: 'decoded twice',
};

/** An exponent that stands for the sRGB curve, where a tag alone cannot undo what was done. */
const CURVE = 2.2;

/** How a map of this state and these primaries is to be read. */
export function tagOf(
  state: EncodingState,
  linear: Primaries['linear'],
): Required<Pick<MapUse, 'space' | 'exponent'>> {
  const encoded = PRIMARIES.find((primaries) => primaries.linear === linear)?.encoded ?? null;
  switch (state) {
    case 'linear':
      return { space: linear, exponent: 1 };
    case 'darkened':
      return { space: linear, exponent: 1 / CURVE };
    case 'encoded':
      return encoded ? { space: encoded, exponent: 1 } : { space: linear, exponent: CURVE };
    default:
      return encoded ? { space: encoded, exponent: CURVE } : { space: linear, exponent: CURVE * CURVE };
  }
}

/** What a tag takes a map's numbers for; `data` is light as it stands. */
export function stateOfTag(space: ColourSpace): {
  state: 'linear' | 'encoded';
  linear: Primaries['linear'] | null;
} {
  if (space === 'data' || space === 'unknown') return { state: 'linear', linear: null };
  const linear = linearOf(space);
  return { state: linear === null || linear === space ? 'linear' : 'encoded', linear };
}
