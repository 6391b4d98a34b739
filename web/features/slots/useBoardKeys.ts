'use client';

import type { Edit, SlotAddress } from '@kinkajou/core/asset/asset';
import { adjustEdit, clearEdit, nextComponent, notEmpty, splitEdit, withMap } from '@kinkajou/core/edits/slotEdits';
import type { ChannelName } from '@kinkajou/core/scene/material';
import { useEffect, useRef } from 'react';
import { toast } from 'sonner';
import { plural } from '@/ui/format';
import { useFocus } from '../bench/focus.ts';
import { isTyping } from '../bench/keys.ts';
import { type Bench, useBench } from '../bench/useBench.ts';
import { rectangle } from './boardModel.ts';
import { copySlots, fillDownEdit, pasteEdit } from './clipboard.ts';

interface BoardShape {
  rows: string[];
  columns: ChannelName[];
  scrollTo(row: number): void;
}

const MOVES: Record<string, [number, number]> = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] };

/** Keys of the board: arrows move, Shift selects, Enter picks, I C Y S change how slots read, Delete clears; copy, paste, fill down. */
export function useBoardKeys(shape: BoardShape): void {
  const bench = useBench();
  const latest = useRef({ shape, bench });
  latest.current = { shape, bench };
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event) || useFocus.getState().dialog) return;
      if (handle(event, latest.current.shape, latest.current.bench)) event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
}

function handle(event: KeyboardEvent, shape: BoardShape, bench: Bench): boolean {
  const { slot, selected, set } = useFocus.getState();
  const { materials } = bench.view.state;
  const move = MOVES[event.key];
  if (move) {
    step(move, event.shiftKey, shape);
    return true;
  }
  if (!slot) return false;
  const mapped = withMap(selected, materials);
  const map = materials.find((material) => material.key === slot.material)?.channels[slot.channel]?.map;
  if (event.ctrlKey || event.metaKey) {
    return command(event.key.toLowerCase(), slot, selected, shape, bench);
  }
  switch (event.key) {
    case 'Enter':
      if ((event.target as HTMLElement).closest('button, a')) return false;
      set({ dialog: 'picker' });
      return true;
    case 'Escape':
      set({ selected: [slot], anchor: slot });
      return true;
    case 'Delete':
    case 'Backspace': {
      const filled = notEmpty(selected, materials);
      if (filled.length > 0) bench.apply([clearEdit(filled)]);
      return true;
    }
    case 'i':
      if (mapped.length > 0) bench.apply([adjustEdit(mapped, { invert: !map?.invert })]);
      return true;
    case 'c':
      if (map) bench.apply([adjustEdit(mapped, { component: nextComponent(map.component, slot.channel) })]);
      return true;
    case 's': {
      const edit = splitEdit(slot, bench.view);
      if (edit) bench.apply([edit]);
      return edit !== null;
    }
    case 'y': {
      const normals = mapped.filter((other) => other.channel === 'normal');
      if (normals.length > 0) bench.apply([adjustEdit(normals, { normalY: map?.normalY === 'Y+' ? 'Y-' : 'Y+' })]);
      return true;
    }
    default:
      return false;
  }
}

function command(key: string, slot: SlotAddress, selected: SlotAddress[], { rows }: BoardShape, bench: Bench): boolean {
  const { materials } = bench.view.state;
  const apply = (edit: Edit | null, otherwise: string) => {
    if (edit) bench.apply([edit]);
    else toast(otherwise);
  };
  switch (key) {
    case 'a':
      useFocus.getState().set({ selected: rows.map((material) => ({ material, channel: slot.channel })) });
      return true;
    case 'c':
      // Text that is marked on the page is copied as text.
      if (window.getSelection()?.toString()) return false;
      toast(`Copied ${plural(copySlots(selected, materials, rows), 'slot')}.`);
      return true;
    case 'v':
      apply(pasteEdit(selected, rows), 'Nothing was copied yet.');
      return true;
    case 'd':
      apply(fillDownEdit(selected, materials, rows), 'Select the slots below the one to fill from as well.');
      return true;
    default:
      return false;
  }
}

function step([down, right]: [number, number], extend: boolean, { rows, columns, scrollTo }: BoardShape): void {
  const { slot, anchor, set } = useFocus.getState();
  if (rows.length === 0) return;
  const row = Math.min(rows.length - 1, Math.max(0, (slot ? rows.indexOf(slot.material) : -down) + down));
  const column = Math.min(columns.length - 1, Math.max(0, (slot ? columns.indexOf(slot.channel) : -right) + right));
  const here = { material: rows[row], channel: columns[column] };
  scrollTo(row);
  if (extend && anchor) set({ slot: here, selected: rectangle(anchor, here, rows, columns) });
  else set({ slot: here, anchor: here, selected: [here] });
  document.querySelector(`[data-slot="${CSS.escape(`${here.material}/${here.channel}`)}"]`)?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
}
