'use client';

import { adjustEdit } from '@kinkajou/core/edits/slotEdits';
import { distinctNames } from '@kinkajou/core/parcel/distinctNames';
import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { type MouseEvent, useEffect, useMemo, useRef } from 'react';
import { useCommands } from '@/ui/commands/useCommands';

import { Mark } from '@/ui/Mark';
import { RowList } from '@/ui/RowList';
import { Thumbnail } from '@/ui/Thumbnail';
import { sameSlot, useFocus } from '../bench/focus.ts';
import { useBench } from '../bench/useBench.ts';
import { TagSelect } from './TagSelect.tsx';
import type { TagRow } from './tagRows.ts';

const ROW = 38;
const COLUMNS = '20px 40px minmax(0, 1.3fr) minmax(0, 1fr) 62px minmax(0, 176px)';

/**
 * Uses with their tags; arrows move, Shift and Ctrl select more, a tag that is changed changes all selected
 * ones.
 */
export function TagTable({ rows, total }: { rows: TagRow[]; total: number }) {
  const bench = useBench();
  const scrollTo = useRef<(index: number) => void>(() => {});
  const { slot, selected, set } = useFocus();
  const names = useMemo(
    () => distinctNames(rows.map(({ entry }) => entry.resolved ?? entry.written)),
    [rows],
  );
  const move = (event?: KeyboardEvent) => {
    const by = { ArrowDown: 1, ArrowUp: -1 }[event?.key ?? ''];
    if (by === undefined || rows.length === 0) return false;
    const focus = useFocus.getState();
    const next = Math.min(
      rows.length - 1,
      Math.max(0, rows.findIndex((row) => sameSlot(row, focus.slot)) + by),
    );
    const here = { material: rows[next].material, channel: rows[next].channel };
    set({
      slot: here,
      anchor: event?.shiftKey ? focus.anchor : here,
      selected: event?.shiftKey ? [...focus.selected.filter((one) => !sameSlot(one, here)), here] : [here],
    });
    scrollTo.current(next);
  };
  useCommands({
    move,
    extend: move,
    selectColumn: () => set({ selected: rows.map(({ material, channel }) => ({ material, channel })) }),
  });
  useEffect(() => {
    if (rows.length === 0 || rows.some((row) => sameSlot(row, slot))) return;
    const first = rows.find((row) => row.mark !== 'fine') ?? rows[0];
    const here = { material: first.material, channel: first.channel };
    set({ slot: here, anchor: here, selected: [here] });
  }, [rows, slot, set]);
  const isChosen = (row: TagRow) => selected.some((other) => sameSlot(other, row));
  const choose = (row: TagRow, event: MouseEvent) => {
    const here = { material: row.material, channel: row.channel };
    if (event.ctrlKey || event.metaKey) {
      const had = selected.some((other) => sameSlot(other, here));
      return set({
        slot: here,
        anchor: here,
        selected: had ? selected.filter((other) => !sameSlot(other, here)) : [...selected, here],
      });
    }
    const anchor = useFocus.getState().anchor;
    if (event.shiftKey && anchor) {
      const [a, b] = [rows.findIndex((other) => sameSlot(other, anchor)), rows.indexOf(row)].sort(
        (x, y) => x - y,
      );
      return set({
        slot: here,
        selected: rows.slice(Math.max(0, a), b + 1).map(({ material, channel }) => ({ material, channel })),
      });
    }
    set({ slot: here, anchor: here, selected: [here] });
  };
  return (
    <RowList
      label="Colour tags"
      columns={COLUMNS}
      heads={['', '', 'Image', 'Slot', 'Depth', 'Tag']}
      rows={rows}
      height={ROW}
      scrollTo={scrollTo}
      state={(row) => ({
        key: row.key,
        selected: isChosen(row),
        focused: sameSlot(row, slot),
        data: { 'data-tag': `${row.material}/${row.channel}` },
      })}
      pick={choose}
      empty={total === 0 ? 'No slot reads an image.' : 'No use of this kind.'}
      cells={(row) => [
        <Mark key="mark" kind={row.mark} />,
        <Thumbnail key="picture" sha256={row.file?.info ? row.file.sha256 : null} />,
        <span
          key="image"
          className="truncate font-mono text-[11.5px]"
          title={row.entry.resolved ?? row.entry.written}
        >
          {names.get(row.entry.resolved ?? row.entry.written)}
        </span>,
        <span key="slot" className="narrow truncate" title={`${row.material}, ${row.channel}`}>
          {channelTitle(row.channel)}, {row.material}
        </span>,
        <span key="depth" className="narrow truncate text-[11.5px] text-[var(--soft)]">
          {row.file?.info
            ? `${row.file.info.bitDepth} bit${row.file.info.floating ? ' float' : ''}`
            : 'missing'}
        </span>,
        <TagSelect
          key="tag"
          value={row.map.space}
          label={`Colour tag of ${row.material}, ${channelTitle(row.channel)}`}
          change={(space) => bench.apply([adjustEdit(isChosen(row) ? selected : [row], { space })])}
        />,
      ]}
    />
  );
}
