import { channelTitle } from '../../scene/channelTitles.ts';
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
} from './slotFinding.ts';

/** Glossiness read as roughness, or the other way round: rough turns polished. One is 1 minus the other. */
export const slotGlossAsRoughness: Check = (context) =>
  context.slots.flatMap((slot): Finding[] => {
    const verdict = context.verdictOf(slot);
    if (verdict?.kind === 'inverted') return [invertedFinding(slot, verdict.why)];
    if (verdict?.kind !== 'glossAsRoughness') return [];
    const ofMetal = isOfMetal(slot, context);
    const is = slot.channel === 'roughness' ? 'glossiness' : 'roughness';
    return [
      slotFinding(slot, {
        code: 'slot.glossAsRoughness',
        step: 'slots',
        severity: 'error',
        title: `${is === 'glossiness' ? 'Glossiness' : 'Roughness'} read as its opposite`,
        message: `${slotInWords(slot)}, but its name says ${is}; ${ofMetal ? 'metalness lies beside it' : 'inverted it fits'}.`,
        evidence: [verdict.why, 'roughness = 1 - glossiness'],
        ...(ofMetal ? move(slot, verdict.why) : invert(slot, verdict.why, true)),
        safe: (slot.named?.confidence ?? 0) >= 0.9 || isOfTellingSet(slot, context),
      }),
    ];
  });

/**
 * Glossiness that a surface with specular colours reads as its roughness is the usual slip; roughness that is
 * inverted on purpose is asked about.
 */
function invertedFinding(slot: MappedSlot, why: string): Finding {
  const { channel, map, named } = slot;
  return slotFinding(slot, {
    code: 'slot.glossAsRoughness',
    step: 'slots',
    severity: 'error',
    title: `${channelTitle(channel)} read inverted`,
    message: `${slotInWords(slot)} inverted, but its name says ${channel} as it is.`,
    evidence: [why, 'roughness = 1 - glossiness'],
    ...invert(slot, why, !map.invert),
    safe: channel === 'glossiness' && (named?.confidence ?? 0) >= 0.9,
    mendLabel: 'Read as it is',
  });
}

/** Roughness in a classic slot beside metalness: the images are metal/rough, and have slots of their own. */
function isOfMetal({ material, channel, file }: MappedSlot, context: FindingContext): boolean {
  if (channel !== 'glossiness' || !isOpenSlot(context, material.key, 'roughness')) return false;
  const beside = context.slots.some(
    (other) =>
      other.material === material &&
      (other.channel === 'metalness' || other.named?.readings[0]?.channel === 'metalness'),
  );
  const own = context.setOf(file?.path)?.members ?? [];
  return beside || own.some(({ reading }) => reading.channel === 'metalness');
}

function move(slot: MappedSlot, detail: string): Pick<Finding, 'mend' | 'mendLabel'> {
  return {
    mend: {
      kind: 'assignSlots',
      assignments: [assignmentTo(slot, 'roughness', { space: 'data' })],
      clears: [addressOf(slot)],
      origin: { from: 'evidence', detail },
    },
    mendLabel: 'Move to roughness',
  };
}

function invert(slot: MappedSlot, detail: string, on: boolean): Pick<Finding, 'mend' | 'mendLabel'> {
  return {
    mend: {
      kind: 'adjustSlots',
      slots: [addressOf(slot)],
      change: { invert: on },
      origin: { from: 'evidence', detail },
    },
    mendLabel: 'Invert',
  };
}
