import { KinkajouError } from '../errors.ts';
import { parseStage, type StageChoice } from '../scene/stage.ts';
import { DEPTHS, type Destination, formatOf, MAP_TYPES, type MapType } from './profile.ts';

/** What a person settles for one handoff, where the destination leaves it open. */
export interface HandoffChoices {
  /** Type of the model; the destination's first unless told. */
  variant?: string;
  /** Longest side of the whole, in metres; 0 leaves the size. */
  size?: number;
  metresPerUnit?: number;
  /** Type of the images whose type the destination does not depend on. */
  type?: MapType;
  /** Seconds of a turn that goes along as a clip; none unless told. */
  turn?: number;
  /** Camera and lamps that go along. */
  stage?: StageChoice | null;
}

/** A destination with every choice made: one variant, its format, size, unit and image types. */
export interface ResolvedDestination extends Destination {
  variant: string;
}

/** Throws `handoff.variant` and `handoff.choice` naming what the destination does not take. */
export function resolveChoices(
  destination: Destination,
  {
    variant = destination.variants[0],
    size,
    metresPerUnit,
    type,
    turn = 0,
    stage = null,
  }: HandoffChoices = {},
): ResolvedDestination {
  const { id, variants } = destination;
  if (!variants.includes(variant))
    throw new KinkajouError(
      'handoff.variant',
      `${id} has no variant "${variant}"`,
      {},
      `Use ${variants.join(' or ')}.`,
    );
  const refuse = (what: string) =>
    new KinkajouError(
      'handoff.choice',
      `${id} does not leave ${what} open`,
      {},
      'Copy the destination and change it.',
    );
  const resolved: ResolvedDestination = {
    ...destination,
    variant,
    variants: [variant],
    format: formatOf(variant),
    turn,
    stage: stage && parseStage(stage),
  };
  if (!(turn >= 0 && turn <= 3600))
    throw new KinkajouError(
      'handoff.choice',
      `${turn} is no length of a turn`,
      {},
      'Give seconds, up to 3600.',
    );
  if (size !== undefined && size !== destination.size) {
    if (!destination.choices.includes('size')) throw refuse('the size');
    if (!(size >= 0 && size <= 1e6)) throw new KinkajouError('handoff.choice', `${size} m is no size`);
    resolved.size = size;
  }
  if (metresPerUnit !== undefined && metresPerUnit !== destination.metresPerUnit) {
    if (!destination.choices.includes('unit')) throw refuse('the unit');
    if (!(metresPerUnit > 0 && metresPerUnit <= 1e6))
      throw new KinkajouError('handoff.choice', `${metresPerUnit} m is no unit`);
    resolved.metresPerUnit = metresPerUnit;
  }
  if (type !== undefined) {
    if (!destination.choices.includes('type')) throw refuse('the type of images');
    if (!MAP_TYPES.includes(type)) throw new KinkajouError('handoff.choice', `${type} is no type of images`);
    resolved.maps = destination.maps.map((map) =>
      DEPTHS[type].includes(map.depth) ? { ...map, type } : map,
    );
  }
  return resolved;
}
