import { constantValue, memoryOf } from '../../maps/constantValue.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { addressOf, slotFinding } from './slotFinding.ts';

/**
 * An image that is one value all over, as far as the slot reads it: the value alone does the same for no
 * memory.
 */
export const slotConstant: Check = ({ slots }) =>
  slots.flatMap((slot): Finding[] => {
    const { file, facts, channel, content, map } = slot;
    // Alpha that is 1 all over belongs to a colour image that is needed for itself.
    if (!file || !facts || slot.entry.tiles || map.component === 'a') return [];
    // A shape that is drawn into the alpha would go with the image, whether anything reads it yet or not.
    if (facts.alpha && facts.alpha.full < 1) return [];
    const constant = constantValue(channel, content, facts);
    if (!constant) return [];
    // A packed image stays for its other components; then nothing is saved.
    if (
      slots.some(
        (other) =>
          other.file?.path === file.path &&
          other.facts &&
          !constantValue(other.channel, other.content, other.facts),
      )
    )
      return [];
    const saved = memoryOf(facts);
    return [
      slotFinding(slot, {
        code: 'slot.constant',
        step: 'slots',
        severity: 'note',
        title: 'A map of one value',
        message: `${file.path} is ${constant.words} all over; as a value it saves ${saved} of memory.`,
        evidence: [
          constant.evidence,
          `${facts.width} x ${facts.height} with its smaller levels takes ${saved} once shown`,
        ],
        mend: {
          kind: 'unmapSlots',
          slots: [{ ...addressOf(slot), value: constant.value }],
          origin: { from: 'evidence', detail: constant.evidence },
        },
        safe: true,
        mendLabel: constant.value === null ? 'Empty slot' : 'Use value',
      }),
    ];
  });
