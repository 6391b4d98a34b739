import type { SlotAssignment } from '../../asset/asset.ts';
import { alphaVaries } from '../../maps/fitReadings.ts';
import { isNormalLike } from '../../maps/judgePixels.ts';
import type { MapReading } from '../../maps/nameSpans.ts';
import { fileName } from '../../parcel/fileSource.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import type { Finding } from '../finding.ts';
import type { Check, FindingContext } from '../findingContext.ts';
import type { MappedSlot } from './mappedSlot.ts';
import {
  addressOf,
  assignmentTo,
  isOfTellingSet,
  isOpenSlot,
  ownMap,
  slotFinding,
  slotInWords,
  unreadOwn,
  workflowsFor,
} from './slotFinding.ts';
import { strayFindings } from './strays.ts';

/**
 * An image whose name says another channel than the slot that reads it, or another set than its material's own.
 */
export const slotContradiction: Check = (context) => {
  const misnamed = context.slots.flatMap((slot): Finding[] => {
    const verdict = context.verdictOf(slot);
    if (verdict?.kind !== 'contradiction') return sharedFinding(slot, context);
    const { reading, why } = verdict;
    const move = assignmentTo(slot, reading.channel, {
      component: reading.component,
      invert: reading.invert,
      normalY: reading.normalY ?? 'Y+',
    });
    const swap = swapped(slot, move, context);
    const open = isOpenSlot(context, slot.material.key, reading.channel);
    const own = open || swap ? null : ownMap(slot, context);
    const assignments = own ? [own] : [move, ...(swap ? [swap] : [])];
    return [
      slotFinding(slot, {
        code: 'slot.contradiction',
        step: 'slots',
        severity: 'warning',
        title: 'Name and slot disagree',
        message: `${slotInWords(slot)}, but its name says ${channelInWords(reading.channel)}.`,
        evidence: [
          why,
          ...(slot.detected?.evidence ?? []).filter((line) => line !== why),
          `written slot: ${channelInWords(slot.channel)}`,
        ],
        mend:
          open || swap || own
            ? {
                kind: 'assignSlots',
                assignments,
                ...(swap || own ? {} : { clears: [addressOf(slot)] }),
                ...workflowsFor(
                  slot,
                  assignments.map(({ channel }) => channel),
                ),
                origin: { from: 'evidence', detail: why },
              }
            : { kind: 'clearSlots', slots: [addressOf(slot)], origin: { from: 'evidence', detail: why } },
        safe:
          (open || swap !== null || own !== null) &&
          ((slot.named?.confidence ?? 0) >= 0.9 || isOfTellingSet(slot, context)) &&
          !slot.detected?.contradicted &&
          !isAllItHas(slot, context),
        mendLabel: own ? `Use ${fileName(own.image)}` : labelOf(swap, open, reading),
      }),
    ];
  });
  return [...misnamed, ...strayFindings(context)];
};

/** The colour of a material that has no other image: grains are painted with bump maps, too. */
function isAllItHas({ channel, material, facts }: MappedSlot, { slots }: FindingContext): boolean {
  if (channel !== 'baseColor' || (facts && isNormalLike(facts))) return false;
  return slots.filter((other) => other.material === material).length === 1;
}

/** An image that feeds what it is named after and another slot too, whose own image lies unread in the set. */
function sharedFinding(slot: MappedSlot, context: FindingContext): Finding[] {
  const own = unreadOwn(slot, context);
  if (!own) return [];
  const detail = `${own.image} of the same set says ${channelInWords(slot.channel)}, and nothing reads it`;
  const alpha = slot.map.component === 'a' && slot.facts !== null && alphaVaries(slot.facts);
  return [
    slotFinding(slot, {
      code: 'slot.contradiction',
      step: 'slots',
      severity: 'warning',
      title: 'Its own image lies unread',
      message: `${slotInWords(slot)}; ${detail}.`,
      evidence: [detail, ...(slot.named?.evidence ?? [])],
      mend: { kind: 'assignSlots', assignments: [own], origin: { from: 'evidence', detail } },
      // Smoothness rides in the alpha of other images.
      safe: !alpha,
      mendLabel: `Use ${fileName(own.image)}`,
    }),
  ];
}

function labelOf(swap: SlotAssignment | null, open: boolean, reading: MapReading): string {
  if (swap) return 'Swap';
  return open ? `Move to ${channelInWords(reading.channel)}` : 'Clear slot';
}

/**
 * The other half of two slots that read each other's image, sorted so that both findings give one and the
 * same mend.
 */
function swapped(slot: MappedSlot, move: SlotAssignment, { slots }: FindingContext): SlotAssignment | null {
  const other = slots.find(({ material, channel }) => material === slot.material && channel === move.channel);
  if (!other?.file || other.named?.readings[0]?.channel !== slot.channel || other.named.packed) return null;
  const [reading] = other.named.readings;
  return assignmentTo(other, slot.channel, {
    component: reading.component,
    invert: reading.invert,
    normalY: reading.normalY ?? 'Y+',
  });
}
