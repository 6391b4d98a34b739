import { isNormalLike } from '../maps/judgePixels.ts';
import type { Edit } from '../asset/asset.ts';
import type { Check, Finding, FindingContext, MappedSlot } from './finding.ts';
import { addressOf, assignmentTo, isOpenSlot, slotFinding, slotInWords } from './slotFinding.ts';

/** An image whose pixels cannot be what the slot needs. */
export const slotPixels: Check = (context) =>
  context.slots.flatMap((slot): Finding[] => {
    const verdict = context.verdictOf(slot);
    if (verdict?.kind !== 'pixels') return [];
    const { edit, label } = mendOf(slot, context, verdict.why);
    return [
      slotFinding(slot, {
        code: 'slot.pixels',
        step: 'slots',
        severity: 'warning',
        title: 'Pixels and slot disagree',
        message: `${slotInWords(slot)}: ${verdict.why}.`,
        evidence: [verdict.why, ...(slot.named?.evidence ?? [])],
        mend: edit,
        safe: false,
        mendLabel: label,
      }),
    ];
  });

/** Normals go to the open normal slot, colours to the open base colour; anything else only leaves the slot. */
function mendOf(slot: MappedSlot, context: FindingContext, why: string): { edit: Edit; label: string } {
  const origin = { from: 'evidence' as const, detail: why };
  const normal = slot.facts !== null && isNormalLike(slot.facts);
  const channel = normal ? 'normal' : 'baseColor';
  if (slot.channel !== channel && isOpenSlot(context, slot.material.key, channel)) {
    const change = normal
      ? { component: 'rgb' as const, space: 'data' as const, normalY: slot.facts?.direction?.direction ?? ('Y+' as const) }
      : { component: 'rgb' as const, space: slot.file?.info?.floating ? ('lin_rec709_scene' as const) : ('srgb_rec709_scene' as const) };
    return {
      edit: { kind: 'assignSlots', assignments: [assignmentTo(slot, channel, change)], clears: [addressOf(slot)], origin },
      label: `Move to ${channel}`,
    };
  }
  return { edit: { kind: 'clearSlots', slots: [addressOf(slot)], origin }, label: 'Clear slot' };
}
