'use client';

import type { Edit, SlotAddress } from '@kinkajou/core/asset/asset';
import {
  adjustEdit,
  clearEdit,
  nextComponent,
  notEmpty,
  splitEdit,
  withMap,
} from '@kinkajou/core/edits/slotEdits';
import type { ChannelName } from '@kinkajou/core/scene/material';
import { toast } from 'sonner';
import type { Handlers } from '@/ui/commands/registry';
import { useCommands } from '@/ui/commands/useCommands';
import { plural } from '@/ui/format';
import { useFocus } from '../bench/focus.ts';
import { type Bench, useBench } from '../bench/useBench.ts';
import { rectangle } from './boardModel.ts';
import { copySlots, fillDownEdit, pasteEdit } from './clipboard.ts';

interface BoardShape {
  rows: string[];
  columns: ChannelName[];
}

/** Rows down and columns to the right. */
const MOVES: Record<string, [number, number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
};

/** What can be done with the focused slot and with those that are selected with it. */
export function useBoardCommands(shape: BoardShape): void {
  const bench = useBench();
  const slot = useFocus((focus) => focus.slot);
  const selected = useFocus((focus) => focus.selected);
  useCommands({
    move: (event) => event && moveFocus(event, shape),
    extend: (event) => event && moveFocus(event, shape),
    ...(slot ? { ...slotCommands(slot, selected, bench), ...clipboardCommands(slot, shape, bench) } : {}),
  });
}

function slotCommands(slot: SlotAddress, selected: SlotAddress[], bench: Bench): Handlers {
  const { set } = useFocus.getState();
  const { materials } = bench.view.state;
  const mapped = withMap(selected, materials);
  const map = materials.find((material) => material.key === slot.material)?.channels[slot.channel]?.map;
  const normals = mapped.filter((other) => other.channel === 'normal');
  const filled = notEmpty(selected, materials);
  const packed = splitEdit(slot, bench.view);
  const apply = (edit: Edit) => () => bench.apply([edit]);
  return {
    pick: () => set({ dialog: 'picker' }),
    selectOne: () => set({ selected: [slot], anchor: slot }),
    clear: filled.length > 0 ? apply(clearEdit(filled)) : null,
    invert: mapped.length > 0 ? apply(adjustEdit(mapped, { invert: !map?.invert })) : null,
    component: map
      ? apply(adjustEdit(mapped, { component: nextComponent(map.component, slot.channel) }))
      : null,
    split: packed && apply(packed),
    normalDirection:
      normals.length > 0
        ? apply(adjustEdit(normals, { normalY: map?.normalY === 'Y+' ? 'Y-' : 'Y+' }))
        : null,
  };
}

function clipboardCommands(slot: SlotAddress, { rows }: BoardShape, bench: Bench): Handlers {
  const { selected, set } = useFocus.getState();
  const { materials } = bench.view.state;
  const apply = (edit: Edit | null, otherwise: string) => {
    if (edit) bench.apply([edit]);
    else toast(otherwise);
  };
  return {
    selectColumn: () => set({ selected: rows.map((material) => ({ material, channel: slot.channel })) }),
    copy: () => {
      // Text that is marked on the page is copied as text.
      if (window.getSelection()?.toString()) return false;
      toast(`Copied ${plural(copySlots(selected, materials, rows), 'slot')}.`);
    },
    paste: () => apply(pasteEdit(selected, rows), 'Nothing was copied yet.'),
    fillDown: () =>
      apply(fillDownEdit(selected, materials, rows), 'Select the slots below the one to fill from as well.'),
  };
}

function moveFocus(event: KeyboardEvent, { rows, columns }: BoardShape): void {
  const { slot, anchor, set } = useFocus.getState();
  const [down, right] = MOVES[event.key];
  if (rows.length === 0) return;
  const row = Math.min(rows.length - 1, Math.max(0, (slot ? rows.indexOf(slot.material) : -down) + down));
  const column = Math.min(
    columns.length - 1,
    Math.max(0, (slot ? columns.indexOf(slot.channel) : -right) + right),
  );
  const here = { material: rows[row], channel: columns[column] };
  if (event.shiftKey && anchor) set({ slot: here, selected: rectangle(anchor, here, rows, columns) });
  else set({ slot: here, anchor: here, selected: [here] });
  document
    .querySelector(`[data-slot="${CSS.escape(`${here.material}/${here.channel}`)}"]`)
    ?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
}
