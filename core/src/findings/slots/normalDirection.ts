import type { Edit } from '../../asset/asset.ts';
import { percent } from '../../maps/judgePixels.ts';
import type { PixelFacts } from '../../maps/pixelFacts.ts';
import type { NormalDirection } from '../../scene/material.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import type { MappedSlot } from './mappedSlot.ts';
import { addressOf, slotFinding } from './slotFinding.ts';

const TOLD = 0.8;
const SURE = 0.95;
/** A name this plain is believed where the slopes say little. */
const PLAIN_NAME = 0.9;

type Seen = NonNullable<PixelFacts['direction']>;

/**
 * A normal map whose slopes only make sense with green the other way: bumps look like dents. Where the name
 * states the direction and the slopes belie it, nothing is turned without asking; where they say little, the
 * name is believed.
 */
export const normalDirection: Check = ({ slots }) =>
  slots.flatMap((slot): Finding[] => {
    const { channel, map, file, facts, named } = slot;
    if (channel !== 'normal' || !file || map.invert) return [];
    const stated = named?.readings[0]?.channel === 'normal' ? named.readings[0].normalY : null;
    const seen = facts?.direction;
    if (seen?.direction && seen.confidence > TOLD) return bySlopes(slot, file.path, { ...seen, stated });
    const byHand = slot.content.source.from === 'hand';
    return stated === null || stated === map.normalY || byHand ? [] : [byName(slot, file.path, stated)];
  });

/** The name states the direction, and nothing speaks against it. */
function byName(slot: MappedSlot, path: string, stated: NormalDirection): Finding {
  const why = slot.named?.evidence.join('; ') ?? '';
  return slotFinding(slot, {
    code: 'normal.direction',
    step: 'slots',
    severity: 'warning',
    title: 'Normal map the wrong way',
    message: `${path} is read as ${slot.map.normalY}, but is called ${stated}.`,
    evidence: [why],
    mend: readAs(slot, stated, 'evidence', why),
    safe: (slot.named?.confidence ?? 0) >= PLAIN_NAME,
    mendLabel: `Read as ${stated}`,
  });
}

function bySlopes(
  slot: MappedSlot,
  path: string,
  { direction, confidence, stated }: Seen & { stated: NormalDirection | null },
): Finding[] {
  const { map } = slot;
  const belied = stated !== null && stated !== direction;
  // A person has looked at both and said so.
  if (direction === null || (belied ? slot.content.source.from === 'hand' : direction === map.normalY))
    return [];
  const why = `as a surface the slopes fit ${direction} (${confidence.toFixed(2)}); the other way round they curl`;
  const choices = (['Y+', 'Y-'] as const)
    .filter((normalY) => normalY !== map.normalY || belied)
    .map((normalY) => ({
      id: normalY,
      label: `Read as ${normalY}`,
      reason: normalY === direction ? why : 'the name says so',
      images: [path],
      edits: [readAs(slot, normalY, 'hand', why)],
    }));
  return [
    slotFinding(slot, {
      code: 'normal.direction',
      step: 'slots',
      severity: 'warning',
      title: belied ? 'Name and slopes disagree' : 'Normal map the wrong way',
      message: belied
        ? `${path} is called ${stated}, but its slopes fit ${direction} (${percent(confidence)}); it is read as ${map.normalY}.`
        : `${path} is read as ${map.normalY}, but its slopes fit ${direction} (${percent(confidence)}).`,
      evidence: [why, ...(stated ? [`the name says ${stated}`] : [])],
      mend: direction === map.normalY ? null : readAs(slot, direction, 'evidence', why),
      safe: confidence > SURE && !belied,
      mendLabel: `Read as ${direction}`,
      ...(belied ? { choices } : {}),
    }),
  ];
}

function readAs(slot: MappedSlot, normalY: NormalDirection, from: 'evidence' | 'hand', detail: string): Edit {
  return { kind: 'adjustSlots', slots: [addressOf(slot)], change: { normalY }, origin: { from, detail } };
}
