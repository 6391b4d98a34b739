import type { SlotChange } from '../asset/asset.ts';
import type { Check, Finding } from './finding.ts';
import { floatColours } from './floatEncoding.ts';
import { addressOf, slotFinding, slotInWords } from './slotFinding.ts';

const TOLD = 0.6;
const SURE = 0.9;
/** Formats that say nothing of colour tags; what stands there is our own guess for 8 bits. */
const UNTAGGED = new Set(['fbx', 'obj']);

/**
 * Linear numbers that are, or were, decoded as if encoded, and come out dark: by the tag now, or once too often before the
 * file was written. The second is mended by an exponent, since the light itself is lost to no tag.
 */
export const colourLinearAsEncoded: Check = (context) =>
  floatColours(context).flatMap(({ slot, linear, judged }): Finding[] => {
    // Linear is what floats are without evidence, so any judgement of that kind speaks against the tag.
    const byTag = !linear && judged.state === 'linear';
    const before = judged.state === 'darkened' && judged.confidence >= TOLD;
    if (!byTag && !before) return [];
    const change: SlotChange = before ? { space: 'lin_rec709_scene', exponent: 1 / 2.2 } : { space: 'lin_rec709_scene' };
    const why = byTag && judged.confidence < TOLD ? 'float colour is linear unless evidence says otherwise' : judged.evidence[0];
    return [
      slotFinding(slot, {
        code: 'colour.linearAsEncoded',
        step: 'colour',
        severity: 'warning',
        title: before ? 'Decoded once too often' : 'Linear numbers tagged as encoded',
        message: before
          ? `${slotInWords(slot)}; its numbers were decoded twice, so it looks too dark. An exponent of 0.4545 undoes the second time.`
          : `${slotInWords(slot)}; its numbers are linear, but the tag ${slot.map.space} decodes them again, so it looks too dark.`,
        evidence: [why, ...judged.evidence.filter((line) => line !== why)],
        mend: { kind: 'adjustSlots', slots: [addressOf(slot)], change, origin: { from: 'evidence', detail: why } },
        safe: judged.confidence >= SURE || (byTag && isUntagged(context.source.format, slot.content.source.from)),
        mendLabel: before ? 'Set exponent' : 'Tag as linear',
      }),
    ];
  });

function isUntagged(format: string, from: string): boolean {
  return UNTAGGED.has(format) && from === 'file';
}
