import type { Edit, SlotChange } from '../../asset/asset.ts';
import { isColourSpace, SPACES } from '../../colour/spaces.ts';
import type { ColourSpace } from '../../scene/material.ts';
import { addressOf } from '../slots/slotFinding.ts';
import type { FloatColour } from './floatEncoding.ts';

/** The edit that reads a float map as all that is known says. */
export function tagMend({ slot, expected, judged }: FloatColour): Edit {
  return {
    kind: 'adjustSlots',
    slots: [addressOf(slot)],
    change: changeTo(expected),
    origin: { from: 'evidence', detail: judged.evidence[0] ?? '' },
  };
}

/** The change that a choice of space and exponent stands for. */
export function changeTo({ space, exponent }: { space: ColourSpace; exponent: number }): SlotChange {
  return { space, exponent };
}

/** `Tag as sRGB, exponent 2.200`. */
export function changeInWords({ expected: { space, exponent } }: Pick<FloatColour, 'expected'>): string {
  const title = isColourSpace(space) ? SPACES[space].title : space;
  return `Tag as ${title}${exponent === 1 ? '' : `, exponent ${exponent.toFixed(3)}`}`;
}
