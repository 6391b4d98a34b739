import type { SlotAssignment } from '../../asset/asset.ts';
import { SURE_ENOUGH } from '../../maps/detectMaps.ts';
import type { MapReading } from '../../maps/nameSpans.ts';
import { fileName } from '../../parcel/fileSource.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import type { Material } from '../../scene/material.ts';
import type { ImageSet, SetMember } from '../../sets/imageSet.ts';
import type { Finding } from '../finding.ts';
import type { Check, FindingContext } from '../findingContext.ts';
import type { MappedSlot } from './mappedSlot.ts';
import {
  addressOf,
  assignmentTo,
  isOfTellingSet,
  isOpenSlot,
  setWith,
  slotFinding,
  slotInWords,
  workflowsFor,
} from './slotFinding.ts';

/**
 * An image whose name says another channel than the slot that reads it, or another set than all others of its
 * material.
 */
export const slotContradiction: Check = (context) => {
  const strayOf = strayFinder(context);
  return context.slots.flatMap((slot): Finding[] => {
    const verdict = context.verdictOf(slot);
    if (verdict === null) return strayOf(slot);
    if (verdict.kind !== 'contradiction') return [];
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
};

/** So many other slots of a material read one set where that is what it is painted by. */
const MOST_OF_IT = 2;

/**
 * Tells of an image of another set, where the material's own has one for this channel that nothing reads.
 * What all slots share is gathered once.
 */
function strayFinder(context: FindingContext): (slot: MappedSlot) => Finding[] {
  const read = new Set<string>();
  const pathsOf = new Map<Material, string[]>();
  for (const { material, file } of context.slots) {
    if (!file) continue;
    read.add(file.path);
    pathsOf.set(material, [...(pathsOf.get(material) ?? []), file.path]);
  }
  const setOf = new Map(
    context
      .sets()
      .flatMap((set) =>
        [...set.members.map(({ map }) => map.path), ...set.spare.map(({ path }) => path)].map(
          (path) => [path, set] as const,
        ),
      ),
  );
  return (slot) => {
    const { material, channel, file, detected } = slot;
    if (!file || detected?.readings[0]?.channel !== channel) return [];
    const counts = new Map<ImageSet, Set<string>>();
    for (const path of pathsOf.get(material) ?? []) {
      const set = setOf.get(path);
      if (set && set !== setOf.get(file.path)) counts.set(set, (counts.get(set) ?? new Set()).add(path));
    }
    for (const [{ label, members }, { size }] of counts) {
      const own = members.find(({ reading }) => reading.channel === channel);
      if (size < MOST_OF_IT || !own || own.confidence < SURE_ENOUGH || read.has(own.map.path)) continue;
      return [strayFinding(slot, own, { label, size })];
    }
    return [];
  };
}

function strayFinding(
  slot: MappedSlot,
  { map, reading }: SetMember,
  { label, size }: { label: string; size: number },
): Finding {
  const detail = `${size} other slots of ${slot.material.key} read images of ${label}`;
  const change = {
    component: reading.component,
    invert: reading.invert,
    normalY: reading.normalY ?? ('Y+' as const),
    space: map.space === 'unknown' ? ('data' as const) : map.space,
  };
  return slotFinding(slot, {
    code: 'slot.contradiction',
    step: 'slots',
    severity: 'warning',
    title: 'An image of another set',
    message: `${slotInWords(slot)}, whose other images are of ${label}; ${map.path} is read by nothing.`,
    evidence: [detail, ...map.evidence],
    mend: {
      kind: 'assignSlots',
      assignments: [{ ...assignmentTo(slot, slot.channel, change), image: map.path }],
      origin: { from: 'evidence', detail },
    },
    safe: false,
    mendLabel: `Use ${fileName(map.path)}`,
  });
}

/** The image of the same set that the slot asks for, where there is one. */
function ownMap(slot: MappedSlot, context: FindingContext): SlotAssignment | null {
  const path = slot.file?.path;
  const member = setWith(path, context)?.members.find(({ reading }) => reading.channel === slot.channel);
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
