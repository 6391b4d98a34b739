import { isColourSpace, SPACES } from '../colour/spaces.ts';
import type { ColourSpace } from '../scene/material.ts';

/** A colour tag for people who do not know our names: `sRGB`, `ACEScg`, `data, not colour`. */
export function colourWords(space: ColourSpace): string {
  return isColourSpace(space) ? SPACES[space].title : 'data, not colour';
}
