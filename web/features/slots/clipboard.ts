'use client';

import type { Edit, PastedSlot, SlotAddress } from '@kinkajou/core/asset/asset';
import type { ChannelName, Material } from '@kinkajou/core/scene/material';
import { create } from 'zustand';

interface Copied {
  /** Row of the copy, counting from 0. */
  row: number;
  channel: ChannelName;
  content: PastedSlot['content'];
}

/** What was copied on a board; kept while the page is open, also from asset to asset of one parcel. */
const useClipboard = create<{ slots: Copied[] }>()(() => ({ slots: [] }));

const BY_HAND = { from: 'hand' as const, detail: 'slot board' };

/** Copies the selected slots; returns how many. `rows` is the board's order. */
export function copySlots(
  selected: readonly SlotAddress[],
  materials: readonly Material[],
  rows: readonly string[],
): number {
  const order = rowsOf(selected, rows);
  const slots = selected.map(({ material, channel }) => ({
    row: order.indexOf(material),
    channel,
    content: contentOf(materials, { material, channel }),
  }));
  useClipboard.setState({ slots });
  return slots.length;
}

/**
 * What pasting does here. One copied slot goes into every selected slot. Slots of one row go into the same
 * channels of every selected row. Slots of several rows go into as many rows from the first selected one on.
 * Null with nothing copied.
 */
export function pasteEdit(selected: readonly SlotAddress[], rows: readonly string[]): Edit | null {
  const { slots } = useClipboard.getState();
  const targets = rowsOf(selected, rows);
  if (slots.length === 0 || targets.length === 0) return null;
  const pasted = pastedSlots(slots, selected, { rows, targets });
  return pasted.length > 0 ? { kind: 'pasteSlots', slots: pasted, origin: BY_HAND } : null;
}

function pastedSlots(
  slots: readonly Copied[],
  selected: readonly SlotAddress[],
  { rows, targets }: { rows: readonly string[]; targets: readonly string[] },
): PastedSlot[] {
  if (slots.length === 1) return selected.map((slot) => ({ ...slot, content: slots[0].content }));
  if (slots.every(({ row }) => row === 0))
    return targets.flatMap((material) =>
      slots.map(({ channel, content }) => ({ material, channel, content })),
    );
  const first = rows.indexOf(targets[0]);
  return slots.flatMap(({ row, channel, content }) =>
    rows[first + row] === undefined ? [] : [{ material: rows[first + row], channel, content }],
  );
}

/** Fills every selected slot with the topmost selected one of its column; null where nothing is below. */
export function fillDownEdit(
  selected: readonly SlotAddress[],
  materials: readonly Material[],
  rows: readonly string[],
): Edit | null {
  const slots: PastedSlot[] = [];
  for (const channel of new Set(selected.map((slot) => slot.channel))) {
    const column = selected
      .filter((slot) => slot.channel === channel)
      .sort((a, b) => rows.indexOf(a.material) - rows.indexOf(b.material));
    const content = contentOf(materials, column[0]);
    for (const slot of column.slice(1)) slots.push({ ...slot, content });
  }
  return slots.length > 0
    ? { kind: 'pasteSlots', slots, origin: { from: 'hand', detail: 'filled down' } }
    : null;
}

function rowsOf(selected: readonly SlotAddress[], rows: readonly string[]): string[] {
  return [...new Set(selected.map((slot) => slot.material))].sort(
    (a, b) => rows.indexOf(a) - rows.indexOf(b),
  );
}

function contentOf(
  materials: readonly Material[],
  { material, channel }: SlotAddress,
): PastedSlot['content'] {
  const found = materials.find((other) => other.key === material)?.channels[channel];
  return found ? { value: found.value, map: found.map } : null;
}
