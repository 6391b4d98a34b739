import type { Edit } from '../../asset/asset.ts';
import { alphaVaries } from '../../maps/fitReadings.ts';
import { isNormalLike } from '../../maps/judgePixels.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import type { Finding, FindingChoice } from '../finding.ts';
import type { Check, FindingContext } from '../findingContext.ts';
import type { MappedSlot } from './mappedSlot.ts';
import { addressOf, assignmentTo, isOpenSlot, slotFinding, slotInWords, unreadOwn } from './slotFinding.ts';

/** An image whose pixels cannot be what the slot needs. */
export const slotPixels: Check = (context) =>
  context.slots.flatMap((slot): Finding[] => {
    const verdict = context.verdictOf(slot);
    if (verdict?.kind === 'lightOfColour') return [lightFinding(slot, context, verdict.why)];
    const reported = verdict?.kind === 'pixels' || verdict?.kind === 'noAlpha';
    // Where an image is told to stand in for this one, its pixels are no question.
    if (!reported || unreadOwn(slot, context)) return [];
    if (verdict.kind === 'noAlpha') return [noAlphaFinding(slot, context, verdict.why)];
    if (slot.channel === 'opacity' && slot.facts && alphaVaries(slot.facts))
      return [alphaFinding(slot, verdict.why)];
    return [
      slotFinding(slot, {
        code: 'slot.pixels',
        step: 'slots',
        severity: 'warning',
        title: 'Pixels and slot disagree',
        message: `${slotInWords(slot)}: ${verdict.why}.`,
        evidence: [verdict.why, ...(slot.named?.evidence ?? [])],
        // Pixels alone never empty a slot: a person says what is meant.
        mend: null,
        safe: false,
        mendLabel: '',
        choices: choicesOf(slot, context, verdict.why),
      }),
    ];
  });

/** Coverage that is read of the colours, where it lies in their alpha. */
function alphaFinding(slot: MappedSlot, why: string): Finding {
  const detail = 'its alpha varies, and its colours say nothing of coverage';
  return slotFinding(slot, {
    code: 'slot.pixels',
    step: 'slots',
    severity: 'warning',
    title: 'Opacity lies in the alpha',
    message: `${slotInWords(slot)} by its ${slot.map.component}; ${detail}.`,
    evidence: [why, ...(slot.named?.evidence ?? [])],
    mend: {
      kind: 'adjustSlots',
      slots: [addressOf(slot)],
      change: { component: 'a', invert: false },
      origin: { from: 'evidence', detail },
    },
    safe: true,
    mendLabel: 'Read the alpha',
  });
}

/** A scalar that is read of an alpha without content; the name may say where it lies. */
function noAlphaFinding(slot: MappedSlot, context: FindingContext, why: string): Finding {
  const { channel, named, content, map } = slot;
  const says = named?.readings.find((reading) => reading.channel === channel && reading.component !== 'a');
  const mend: Edit | null = says
    ? {
        kind: 'adjustSlots',
        slots: [addressOf(slot)],
        change: { component: says.component, invert: says.invert },
        origin: { from: 'evidence', detail: why },
      }
    : null;
  return slotFinding(slot, {
    code: 'slot.pixels',
    step: 'slots',
    severity: 'warning',
    title: 'Read of an empty alpha',
    message: `${slotInWords(slot)} by its alpha, which is 1 all over.`,
    evidence: [why, ...(named?.evidence ?? [])],
    mend,
    safe:
      mend !== null &&
      !map.invert &&
      content.source.from !== 'hand' &&
      (named?.confidence ?? 0) >= PLAIN_NAME,
    mendLabel: mend ? `Read ${says?.component}` : '',
    ...(mend ? {} : { choices: choicesOf(slot, context, why) }),
  });
}

/** A name this plain says where a channel lies. */
const PLAIN_NAME = 0.8;

/** Colours that shine by themselves may be meant, so that it is told and no more. */
function lightFinding(slot: MappedSlot, context: FindingContext, why: string): Finding {
  return slotFinding(slot, {
    code: 'slot.pixels',
    step: 'slots',
    severity: 'note',
    title: 'Base colour as light',
    message: `${slotInWords(slot)}, and its base colour as well: all of it shines.`,
    evidence: [why, ...(slot.named?.evidence ?? [])],
    mend: null,
    safe: false,
    mendLabel: '',
    choices: choicesOf(slot, context, why),
  });
}

/** Normals may go to the open normal slot, colours to the open base colour; and the slot may be emptied. */
function choicesOf(slot: MappedSlot, context: FindingContext, why: string): FindingChoice[] {
  const origin = { from: 'hand' as const, detail: why };
  const image = slot.file?.path ?? '';
  const clears: Edit = { kind: 'clearSlots', slots: [addressOf(slot)], origin };
  const clear = {
    id: 'clear',
    label: `Empty ${channelInWords(slot.channel)}`,
    reason: why,
    images: [image],
    edits: [clears],
  };
  const normal = slot.facts !== null && isNormalLike(slot.facts);
  const channel = normal ? 'normal' : 'baseColor';
  if (slot.channel === channel || !isOpenSlot(context, slot.material.key, channel)) return [clear];
  const change = normal
    ? {
        component: 'rgb' as const,
        space: 'data' as const,
        normalY: slot.facts?.direction?.direction ?? ('Y+' as const),
      }
    : {
        component: 'rgb' as const,
        space: slot.file?.info?.floating ? ('lin_rec709_scene' as const) : ('srgb_rec709_scene' as const),
      };
  const move: Edit = {
    kind: 'assignSlots',
    assignments: [assignmentTo(slot, channel, change)],
    clears: [addressOf(slot)],
    origin,
  };
  return [
    { id: 'move', label: `Move to ${channelInWords(channel)}`, reason: why, images: [image], edits: [move] },
    clear,
  ];
}
