import type { Primaries } from '../colour/primaries.ts';
import { linearOf } from '../colour/primaries.ts';
import { own } from '../own.ts';
import { fileName, stemOf } from '../parcel/fileSource.ts';
import { COLOUR_SPACES } from '../scene/material.ts';

/** What a file name says of its colours. */
export interface NamedSpace {
  state: 'linear' | 'encoded' | null;
  linear: Primaries['linear'] | null;
  /** The words that say so. */
  words: string;
}

const PRIMARY_WORDS: Record<string, Primaries['linear']> = {
  acescg: 'lin_ap1_scene',
  ap1: 'lin_ap1_scene',
  aces20651: 'lin_ap0_scene',
  aces2065: 'lin_ap0_scene',
  ap0: 'lin_ap0_scene',
  rec709: 'lin_rec709_scene',
  bt709: 'lin_rec709_scene',
  rec2020: 'lin_rec2020_scene',
  bt2020: 'lin_rec2020_scene',
  p3: 'lin_p3d65_scene',
  p3d65: 'lin_p3d65_scene',
  displayp3: 'lin_p3d65_scene',
  dcip3: 'lin_p3d65_scene',
  adobergb: 'lin_adobergb_scene',
};
/** Scene-linear by their definition. */
const LINEAR_BY_NAME = new Set(['acescg', 'aces20651', 'aces2065']);
const LINEAR_WORDS = new Set(['lin', 'linear', 'scenelinear']);
const ENCODED_WORDS = new Set(['srgb', 'gamma', 'encoded', 'g22', 'g18', 'nonlinear']);

/**
 * Colour spaces in a file name: names of the Color Interop Forum, words of the ACES configurations, and plain
 * ones such as `linear` and `sRGB`. Null where no word speaks of it.
 */
export function nameSpace(path: string): NamedSpace | null {
  const words = stemOf(fileName(path))
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter((word) => word !== '');
  const whole = COLOUR_SPACES.find(
    (space) => linearOf(space) !== null && holds(words, space.replace(/_scene$/, '').split('_')),
  );
  if (whole)
    return { state: whole.startsWith('lin_') ? 'linear' : 'encoded', linear: linearOf(whole), words: whole };
  const readings = words.map((word, i) => {
    const pair = `${word}${words[i + 1] ?? ''}`;
    return own(PRIMARY_WORDS, pair) ? pair : word;
  });
  const primaries = readings.find((word) => own(PRIMARY_WORDS, word));
  const linear = readings.find((word) => LINEAR_WORDS.has(word) || LINEAR_BY_NAME.has(word));
  const encoded = readings.find((word) => ENCODED_WORDS.has(word));
  if (!primaries && !linear && !encoded) return null;
  return {
    state: stateOf(encoded, linear),
    // A plain "sRGB" names primaries, too.
    linear: linearSpaceOf(primaries, encoded),
    words: [...new Set([linear, encoded, primaries].filter(Boolean))].join(' '),
  };
}

function stateOf(encoded: string | undefined, linear: string | undefined): 'linear' | 'encoded' | null {
  if (encoded) return 'encoded';
  return linear ? 'linear' : null;
}

function linearSpaceOf(
  primaries: string | undefined,
  encoded: string | undefined,
):
  | 'srgb_rec709_scene'
  | 'g22_rec709_scene'
  | 'g18_rec709_scene'
  | 'lin_rec709_scene'
  | 'lin_p3d65_scene'
  | 'srgb_p3d65_scene'
  | 'lin_rec2020_scene'
  | 'lin_adobergb_scene'
  | 'g22_adobergb_scene'
  | 'lin_ap1_scene'
  | 'g22_ap1_scene'
  | 'srgb_ap1_scene'
  | 'lin_ap0_scene'
  | 'lin_ciexyzd65_scene'
  | null {
  if (primaries) return PRIMARY_WORDS[primaries];
  return encoded === 'srgb' ? 'lin_rec709_scene' : null;
}

function holds(words: readonly string[], required: readonly string[]): boolean {
  return words.some((_, i) => required.every((word, k) => words[i + k] === word));
}
