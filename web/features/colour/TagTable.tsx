'use client';

import { adjustEdit } from '@kinkajou/core/edits/slotEdits';
import { distinctNames } from '@kinkajou/core/parcel/distinctNames';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type MouseEvent, useEffect, useMemo, useRef } from 'react';
import { pictureUrl } from '@/ui/api';
import { channelTitle } from '@/ui/format';
import { Mark } from '@/ui/Mark';
import { sameSlot, useFocus } from '../bench/focus.ts';
import { isTyping } from '../bench/keys.ts';
import { useBench } from '../bench/useBench.ts';
import { TagSelect } from './TagSelect.tsx';
import type { TagRow } from './tagRows.ts';

const ROW = 38;
const COLUMNS = '20px 40px minmax(0, 1.3fr) minmax(0, 1fr) 62px minmax(0, 176px)';

/** Uses with their tags; arrows move, Shift and Ctrl select more, a tag that is changed changes all selected ones. */
export function TagTable({ rows, total }: { rows: TagRow[]; total: number }) {
  const bench = useBench();
  const scroller = useRef<HTMLDivElement>(null);
  const { slot, selected, set } = useFocus();
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => scroller.current, estimateSize: () => ROW, overscan: 10, paddingStart: 28 });
  const names = useMemo(() => distinctNames(rows.map(({ entry }) => entry.resolved ?? entry.written)), [rows]);
  const latest = useRef({ rows, virtual });
  latest.current = { rows, virtual };
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event) || useFocus.getState().dialog) return;
      const move = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
      const now = latest.current;
      if (event.key.toLowerCase() === 'a' && (event.ctrlKey || event.metaKey)) {
        useFocus.getState().set({ selected: now.rows.map(({ material, channel }) => ({ material, channel })) });
        event.preventDefault();
      }
      if (move === 0 || now.rows.length === 0) return;
      const focus = useFocus.getState();
      const at = now.rows.findIndex((row) => sameSlot(row, focus.slot));
      const next = Math.min(now.rows.length - 1, Math.max(0, at + move));
      const here = { material: now.rows[next].material, channel: now.rows[next].channel };
      focus.set({
        slot: here,
        anchor: event.shiftKey ? focus.anchor : here,
        selected: event.shiftKey ? [...focus.selected.filter((one) => !sameSlot(one, here)), here] : [here],
      });
      now.virtual.scrollToIndex(next);
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  useEffect(() => {
    if (rows.length === 0 || rows.some((row) => sameSlot(row, slot))) return;
    const first = rows.find((row) => row.mark !== 'fine') ?? rows[0];
    const here = { material: first.material, channel: first.channel };
    set({ slot: here, anchor: here, selected: [here] });
  }, [rows, slot, set]);
  const choose = (row: TagRow, event: MouseEvent) => {
    const here = { material: row.material, channel: row.channel };
    if (event.ctrlKey || event.metaKey) {
      const had = selected.some((other) => sameSlot(other, here));
      return set({ slot: here, anchor: here, selected: had ? selected.filter((other) => !sameSlot(other, here)) : [...selected, here] });
    }
    const anchor = useFocus.getState().anchor;
    if (event.shiftKey && anchor) {
      const [a, b] = [rows.findIndex((other) => sameSlot(other, anchor)), rows.indexOf(row)].sort((x, y) => x - y);
      return set({ slot: here, selected: rows.slice(Math.max(0, a), b + 1).map(({ material, channel }) => ({ material, channel })) });
    }
    set({ slot: here, anchor: here, selected: [here] });
  };
  return (
    <div ref={scroller} className="min-h-0 overflow-auto" role="table" aria-label="Colour tags">
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        <div
          role="row"
          className="narrow sticky top-0 z-10 grid h-7 items-center gap-2 border-b border-[var(--line)] bg-base-300 px-3 text-[11.5px] font-semibold"
          style={{ gridTemplateColumns: COLUMNS }}
        >
          <span />
          <span />
          <span role="columnheader">Image</span>
          <span role="columnheader">Slot</span>
          <span role="columnheader">Depth</span>
          <span role="columnheader">Tag</span>
        </div>
        {virtual.getVirtualItems().map((item) => {
          const row = rows[item.index];
          const chosen = selected.some((other) => sameSlot(other, row));
          return (
            <div
              key={row.key}
              role="row"
              tabIndex={-1}
              aria-selected={chosen}
              data-tag={`${row.material}/${row.channel}`}
              className={`absolute inset-x-0 grid cursor-pointer items-center gap-2 border-b border-[var(--line-soft)] px-3 text-[12.3px] ${chosen ? 'bg-[var(--honey-wash)]' : ''} ${sameSlot(row, slot) ? 'shadow-[inset_0_0_0_2px_var(--color-accent)]' : ''}`}
              style={{ top: item.start, height: ROW, gridTemplateColumns: COLUMNS }}
              onMouseDown={(event) => {
                if (!(event.target as HTMLElement).closest('select')) choose(row, event);
              }}
            >
              <Mark kind={row.mark} />
              {row.file?.info ? (
                <span
                  className="h-7 rounded border border-black/15 bg-cover bg-center"
                  style={{ backgroundImage: `url(${pictureUrl(row.file.sha256, 96)})` }}
                />
              ) : (
                <span className="missing-stripes h-7 rounded border border-error" />
              )}
              <span className="truncate font-mono text-[11.5px]" title={row.entry.resolved ?? row.entry.written}>
                {names.get(row.entry.resolved ?? row.entry.written)}
              </span>
              <span className="narrow truncate" title={`${row.material}, ${row.channel}`}>
                {channelTitle(row.channel)}, {row.material}
              </span>
              <span className="narrow truncate text-[11.5px] text-[var(--soft)]">
                {row.file?.info ? `${row.file.info.bitDepth} bit${row.file.info.floating ? ' float' : ''}` : 'missing'}
              </span>
              <TagSelect
                value={row.map.space}
                label={`Colour tag of ${row.material}, ${channelTitle(row.channel)}`}
                change={(space) => bench.apply([adjustEdit(chosen ? selected : [row], { space })])}
              />
            </div>
          );
        })}
        {rows.length === 0 && <p className="pt-16 text-center text-[var(--soft)]">{total === 0 ? 'No slot reads an image.' : 'No use of this kind.'}</p>}
      </div>
    </div>
  );
}
