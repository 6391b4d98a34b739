import { isColourSpace, spaceDefinition } from '../colour/spaces.ts';
import { type EncodingJudgement, judgeEncoding } from '../maps/judgeEncoding.ts';
import type { PixelFacts } from '../maps/pixelFacts.ts';
import { fileName, folderOf, stemOf } from '../parcel/fileSource.ts';
import { COLOUR_CHANNELS } from '../scene/material.ts';
import type { FindingContext, MappedSlot } from './finding.ts';

export interface FloatColour {
  slot: MappedSlot;
  /** Whether the tag says that the numbers are light. */
  linear: boolean;
  judged: EncodingJudgement;
}

/** Float maps in colour slots, with what their numbers say of encoding, by an 8-bit sibling where there is one. */
export function floatColours(context: FindingContext): FloatColour[] {
  return context.slots.flatMap((slot): FloatColour[] => {
    const { channel, map, file, facts } = slot;
    if (!COLOUR_CHANNELS.has(channel) || !file?.info?.floating || !facts || map.component === 'a' || (map.exponent ?? 1) !== 1) return [];
    const linear = !isColourSpace(map.space) || spaceDefinition(map.space).transfer.linear;
    return [{ slot, linear, judged: judgeEncoding(facts, siblingFacts(context, file.path)) }];
  });
}

/** Facts of an integer image of the same stem in the same folder. */
function siblingFacts({ images, facts }: FindingContext, path: string): PixelFacts | null {
  const sibling = images.find(
    (image) =>
      image.path !== path && image.info && !image.info.floating && folderOf(image.path) === folderOf(path) && stemOf(fileName(image.path)) === stemOf(path),
  );
  return (sibling && facts.get(sibling.sha256)) ?? null;
}
