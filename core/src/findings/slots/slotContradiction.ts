import type { SlotAssignment } from '../../asset/asset.ts';
import { SURE_ENOUGH } from '../../maps/detectMaps.ts';
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
  slotFinding,
  slotInWords,
  workflowsFor,
} from './slotFinding.ts';

/** An image whose name says another channel than the slot that reads it. */
export const slotContradiction: Check = (context) =>
  context.slots.flatMap((slot): Finding[] => {
    const verdict = context.verdictOf(slot);
    if (verdict?.kind !== 'contradiction') return [];
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
          !slot.detected?.contradicted,
        mendLabel: own ? `Use ${fileName(own.image)}` : labelOf(swap, open, reading),
      }),
    ];
  });

/** The image of the same set that the slot asks for, where there is one. */
function ownMap(slot: MappedSlot, context: FindingContext): SlotAssignment | null {
  const path = slot.file?.path;
  const set = context
    .sets()
    .find(({ members, spare }) =>
      [...members.map(({ map }) => map), ...spare].some((map) => map.path === path),
    );
  const member = set?.members.find(({ reading }) => reading.channel === slot.channel);
  if (!member || member.map.path === path || member.confidence < SURE_ENOUGH) return null;
  const { component, invert } = member.reading;
  return {
    ...assignmentTo(slot, slot.channel, { component, invert, space: 'data' }),
    image: member.map.path,
  };
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
