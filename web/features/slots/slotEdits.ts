import type { Edit, SlotAddress, SlotChange } from '@kinkajou/core/asset/asset';
import { type ChannelName, COMPONENTS, type Component, defaultComponent, defaultSpace, type Material } from '@kinkajou/core/scene/material';
import { suggestAssignments } from '@kinkajou/core/asset/suggest';
import type { BenchView } from '../bench/useBench.ts';

const BY_HAND = { from: 'hand' as const, detail: 'slot board' };

/** Puts one image into every given slot, each with the component and tag its channel usually has. */
export function assignEdit(slots: SlotAddress[], image: string): Edit {
  return {
    kind: 'assignSlots',
    assignments: slots.map((slot) => ({
      ...slot,
      image,
      component: defaultComponent(slot.channel),
      invert: false,
      space: defaultSpace(slot.channel),
      normalY: 'Y+',
    })),
    origin: BY_HAND,
  };
}

export function clearEdit(slots: SlotAddress[]): Edit {
  return { kind: 'clearSlots', slots, origin: BY_HAND };
}

export function adjustEdit(slots: SlotAddress[], change: SlotChange): Edit {
  return { kind: 'adjustSlots', slots, change, origin: BY_HAND };
}

export function valueEdit(slots: SlotAddress[], value: number | [number, number, number]): Edit {
  return { kind: 'setValues', slots, value, origin: BY_HAND };
}

/** Those of the slots that have a map. */
export function withMap(slots: readonly SlotAddress[], materials: readonly Material[]): SlotAddress[] {
  return slots.filter(({ material, channel }) => materials.find((other) => other.key === material)?.channels[channel]?.map);
}

/** Those of the slots that hold anything. */
export function notEmpty(slots: readonly SlotAddress[], materials: readonly Material[]): SlotAddress[] {
  return slots.filter(({ material, channel }) => materials.find((other) => other.key === material)?.channels[channel]);
}

export function nextComponent(component: Component, channel: ChannelName): Component {
  const order = channel === 'normal' ? (['rgb'] as const) : COMPONENTS;
  return order[(order.indexOf(component as never) + 1) % order.length];
}

/** One edit that assigns by name every image that fits an open slot; null when none does. */
export function assignByNameEdit(view: BenchView): Edit | null {
  const found = suggestAssignments(view.state, view.images);
  if (found.length === 0) return null;
  return {
    kind: 'assignSlots',
    assignments: found.map(({ reason: _reason, confidence: _confidence, ...assignment }) => assignment),
    origin: { from: 'evidence', detail: 'words in the names' },
  };
}
