import type { Edit } from '../../asset/asset.ts';
import { percent } from '../../maps/judgePixels.ts';
import type { NormalDirection } from '../../scene/material.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { addressOf, slotFinding } from './slotFinding.ts';

const TOLD = 0.8;
const SURE = 0.95;

/**
 * A normal map whose slopes only make sense with green the other way: bumps look like dents. Where the name
 * states the direction and the slopes belie it, nothing is turned without asking.
 */
export const normalDirection: Check = ({ slots }) =>
  slots.flatMap((slot): Finding[] => {
    const { channel, map, file, facts } = slot;
    const seen = facts?.direction;
    if (channel !== 'normal' || !file || !seen?.direction || map.invert || seen.confidence <= TOLD) return [];
    const { direction } = seen;
    const stated = slot.named?.readings[0]?.normalY ?? null;
    const belied = stated !== null && stated !== direction;
    // A person has looked at both and said so.
    if (belied ? slot.content.source.from === 'hand' : direction === map.normalY) return [];
    const why = `as a surface the slopes fit ${direction} (${seen.confidence.toFixed(2)}); the other way round they curl`;
    const read = (normalY: NormalDirection, from: 'evidence' | 'hand'): Edit => ({
      kind: 'adjustSlots',
      slots: [addressOf(slot)],
      change: { normalY },
      origin: { from, detail: why },
    });
    const choices = (['Y+', 'Y-'] as const)
      .filter((normalY) => normalY !== map.normalY || belied)
      .map((normalY) => ({
        id: normalY,
        label: `Read as ${normalY}`,
        reason: normalY === direction ? why : 'the name says so',
        images: [file.path],
        edits: [read(normalY, 'hand')],
      }));
    return [
      slotFinding(slot, {
        code: 'normal.direction',
        step: 'slots',
        severity: 'warning',
        title: belied ? 'Name and slopes disagree' : 'Normal map the wrong way',
        message: belied
          ? `${file.path} is called ${stated}, but its slopes fit ${direction} (${percent(seen.confidence)}); it is read as ${map.normalY}.`
          : `${file.path} is read as ${map.normalY}, but its slopes fit ${direction} (${percent(seen.confidence)}).`,
        evidence: [why, ...(stated ? [`the name says ${stated}`] : [])],
        mend: direction === map.normalY ? null : read(direction, 'evidence'),
        safe: seen.confidence > SURE && !belied,
        mendLabel: `Read as ${direction}`,
        ...(belied ? { choices } : {}),
      }),
    ];
  });
