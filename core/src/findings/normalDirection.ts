import { percent } from '../maps/judgePixels.ts';
import type { Check, Finding } from './finding.ts';
import { addressOf, slotFinding } from './slotFinding.ts';

const TOLD = 0.8;
const SURE = 0.95;

/** A normal map whose slopes only make sense with green the other way: bumps look like dents. */
export const normalDirection: Check = ({ slots }) =>
  slots.flatMap((slot): Finding[] => {
    const { channel, map, file, facts } = slot;
    const seen = facts?.direction;
    if (channel !== 'normal' || !file || !seen?.direction || map.invert) return [];
    if (seen.direction === map.normalY || seen.confidence <= TOLD) return [];
    const why = `as a surface the slopes fit ${seen.direction} (${seen.confidence.toFixed(2)}); read as ${map.normalY} they curl`;
    return [
      slotFinding(slot, {
        code: 'normal.direction',
        step: 'slots',
        severity: 'warning',
        title: 'Normal map the wrong way',
        message: `${file.path} is read as ${map.normalY}, but its slopes fit ${seen.direction} (${percent(seen.confidence)}).`,
        evidence: [why, ...(slot.named?.readings[0]?.normalY ? [`the name says ${slot.named.readings[0].normalY}`] : [])],
        mend: { kind: 'adjustSlots', slots: [addressOf(slot)], change: { normalY: seen.direction }, origin: { from: 'evidence', detail: why } },
        safe: seen.confidence > SURE,
        mendLabel: `Read as ${seen.direction}`,
      }),
    ];
  });
