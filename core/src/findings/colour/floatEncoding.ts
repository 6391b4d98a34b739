import type { ParcelImage } from '../../asset/asset.ts';
import type { FactsByHash } from '../../asset/collectFacts.ts';
import type { Primaries } from '../../colour/primaries.ts';
import { spaceOfChromaticities } from '../../colour/primaries.ts';
import { type EncodingState, STATE_WORDS, stateOfTag, tagOf } from '../../maps/encodingState.ts';
import { type EncodingJudgement, judgeEncoding, SURE, TOLD } from '../../maps/judgeEncoding.ts';
import { nameSpace } from '../../maps/nameSpace.ts';
import type { PixelFacts } from '../../maps/pixelFacts.ts';
import { fileName, folderOf, stemOf } from '../../parcel/fileSource.ts';
import { COLOUR_CHANNELS, type ColourSpace } from '../../scene/material.ts';
import type { MappedSlot } from '../slots/mappedSlot.ts';

/** What float maps are judged by. */
export interface FloatInputs {
  slots: readonly MappedSlot[];
  images: readonly ParcelImage[];
  facts: FactsByHash;
}

/** A float map in a colour slot, with what its numbers are and what its tag takes them for. */
export interface FloatColour {
  slot: MappedSlot;
  judged: EncodingJudgement;
  tag: { state: 'linear' | 'encoded'; linear: Primaries['linear'] | null };
  /** The primaries that it is to be read in: what evidence says, else what its tag says, else Rec.709. */
  linear: Primaries['linear'];
  /** How it is to be read by all that is known. */
  expected: { space: ColourSpace; exponent: number };
  /** The file states nothing of colour, or only that its numbers are raw. */
  unstated: boolean;
  /** A person, or a mend, has said how it is to be read. */
  settled: boolean;
}

/**
 * Float maps in colour slots, each judged by itself and then in the light of its neighbours: images of one
 * folder come from one export, so what is plain in some of them holds for those that tell nothing.
 */
export function floatColours(context: FloatInputs): FloatColour[] {
  const floatSlots = context.slots.flatMap((slot) => {
    const { channel, map, file, facts } = slot;
    if (!COLOUR_CHANNELS.has(channel) || !file?.info?.floating || !facts || map.component === 'a') return [];
    const header = spaceOfChromaticities(file.info.chromaticities);
    return [
      {
        slot,
        path: file.path,
        judged: judgeEncoding(facts, {
          sibling: siblingFacts(context, file.path),
          name: nameSpace(file.path),
          header,
        }),
      },
    ];
  });
  return floatSlots.map(({ slot, path, judged }) => {
    const neighbours = floatSlots
      .filter((other) => other.path !== path && folderOf(other.path) === folderOf(path))
      .map((other) => other.judged);
    return settle(slot, withNeighbours(judged, neighbours));
  });
}

function settle(slot: MappedSlot, judged: EncodingJudgement): FloatColour {
  const { map } = slot;
  const tag = stateOfTag(map.space);
  const linear = judged.linear ?? tag.linear ?? 'lin_rec709_scene';
  return {
    slot,
    judged,
    tag,
    linear,
    expected: tagOf(judged.state, linear),
    unstated: map.spaceFrom === 'unstated' || map.space === 'data',
    settled: map.spaceFrom === 'edit' || (map.exponent ?? 1) !== 1,
  };
}

/**
 * Adopts what the neighbours plainly are, where the map itself does not tell and nothing in it speaks against
 * it.
 */
function withNeighbours(
  judged: EncodingJudgement,
  neighbours: readonly EncodingJudgement[],
): EncodingJudgement {
  let { state, confidence, linear, by } = judged;
  const evidence = [...judged.evidence];
  const plain = neighbours.filter((other) => other.confidence >= SURE);
  const states = new Set(plain.map((other) => other.state));
  const [common] = states;
  if (confidence < SURE && states.size === 1) {
    if (fits(judged, common)) {
      [state, confidence] = [common, SURE];
      evidence.unshift(
        `its ${plain.length === 1 ? 'neighbour is' : `${plain.length} neighbours are`} plainly ${STATE_WORDS[common]}`,
      );
    } else confidence = Math.min(confidence, TOLD - 0.1);
  }
  const spaces = new Set(plain.flatMap((other) => other.linear ?? []));
  if (linear === null && spaces.size === 1) {
    [linear] = spaces;
    by = 'codes';
    evidence.push(`its neighbours have the primaries of ${linear}`);
  }
  return { state, confidence, linear, by, evidence };
}

/** Whether a map that is judged so by its range alone may be what its neighbours are. */
function fits({ state, confidence }: EncodingJudgement, common: EncodingState): boolean {
  if (state === common || confidence < TOLD) return true;
  return state === 'encoded' && common === 'encodedTwice';
}

/** Facts of an integer image of the same stem in the same folder. */
function siblingFacts({ images, facts }: FloatInputs, path: string): PixelFacts | null {
  const sibling = images.find(
    (image) =>
      image.path !== path &&
      image.info &&
      !image.info.floating &&
      folderOf(image.path) === folderOf(path) &&
      stemOf(fileName(image.path)) === stemOf(path),
  );
  return (sibling && facts.get(sibling.sha256)) ?? null;
}
