import type { ColourSpace } from '../scene/material.ts';
import { type Chromaticities, PRIMARIES_OF, SPACES, type Transfer } from './spaces.ts';

/**
 * A set of primaries by its linear space, with the encoded space that goes with it where there is a word for
 * one.
 */
export interface Primaries {
  linear: Exclude<ColourSpace, 'data' | 'unknown'>;
  encoded: Exclude<ColourSpace, 'data' | 'unknown'> | null;
}

/** Primaries that colour images are met in, the most usual first. */
export const PRIMARIES: readonly Primaries[] = [
  { linear: 'lin_rec709_scene', encoded: 'srgb_rec709_scene' },
  { linear: 'lin_ap1_scene', encoded: 'srgb_ap1_scene' },
  { linear: 'lin_p3d65_scene', encoded: 'srgb_p3d65_scene' },
  { linear: 'lin_rec2020_scene', encoded: null },
  { linear: 'lin_adobergb_scene', encoded: 'g22_adobergb_scene' },
  { linear: 'lin_ap0_scene', encoded: null },
];

/** Files state chromaticities in single floats, and some in three digits. */
const SLACK = 0.0015;

/** The linear space whose primaries and white a file states, or null where none of ours has them. */
export function spaceOfChromaticities(
  stated: readonly number[] | null | undefined,
): Primaries['linear'] | null {
  if (!stated || stated.length < 8) return null;
  const primaries = PRIMARIES.find(({ linear }) =>
    PRIMARIES_OF[linear]?.every((value, i) => Math.abs(value - stated[i]) <= SLACK),
  );
  return primaries?.linear ?? null;
}

/** The chromaticities of a space's primaries and white; null for those that are no RGB. */
export function chromaticitiesOf(space: ColourSpace): Chromaticities | null {
  return PRIMARIES_OF[space] ?? null;
}

/** The linear space with the primaries of a space; null for what is no colour. */
export function linearOf(space: ColourSpace): Primaries['linear'] | null {
  const chromaticities = PRIMARIES_OF[space];
  return (
    (chromaticities && PRIMARIES.find(({ linear }) => PRIMARIES_OF[linear] === chromaticities)?.linear) ??
    null
  );
}

/** The curve by which colours of these primaries are mostly encoded. */
export function usualCurve({ encoded }: Primaries): Transfer {
  return SPACES[encoded ?? 'srgb_rec709_scene'].transfer;
}
