'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import { type MouseEvent, type ReactNode, type RefObject, useEffect, useRef, useState } from 'react';

const HEAD = 28;

interface RowState {
  key: string;
  selected: boolean;
  /** The one of the selected rows that keys and details are about. */
  focused?: boolean;
  /** What tests and style sheets find the row by. */
  data?: Record<`data-${string}`, string>;
}

/** How a list stands where it has little room. */
interface Narrow {
  /** Pixels across. */
  below: number;
  columns: string;
  /** Columns that are left out, by their places. */
  without: readonly number[];
}

interface RowListProps<Row> {
  label: string;
  /** Columns in the words of a CSS grid. */
  columns: string;
  narrow?: Narrow;
  /** A word above each column, empty where it needs none. */
  heads: readonly string[];
  rows: readonly Row[];
  /** Of a row, in pixels. */
  height: number;
  /** Filled with what brings a row into sight. */
  scrollTo?: RefObject<(index: number) => void>;
  state(row: Row): RowState;
  /** What stands in each column. */
  cells(row: Row): readonly ReactNode[];
  pick(row: Row, event: MouseEvent): void;
  /** Said where there are no rows. */
  empty: string;
}

/**
 * Rows under fixed heads, of which any number can be selected; only those in sight are drawn. Controls inside
 * rows keep their clicks.
 */
export function RowList<Row>({
  label,
  columns: usual,
  narrow,
  heads,
  rows,
  height,
  scrollTo,
  state,
  cells,
  pick,
  empty,
}: RowListProps<Row>) {
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 10,
    paddingStart: HEAD,
  });
  const slim = useIsNarrow(scroller, narrow?.below ?? 0) ? narrow : undefined;
  const columns = slim?.columns ?? usual;
  const stays = (_: unknown, column: number) => !slim?.without.includes(column);
  if (scrollTo) scrollTo.current = (index) => virtual.scrollToIndex(index);
  return (
    <div
      ref={scroller}
      className="h-full min-h-0 overflow-auto"
      role="grid"
      aria-label={label}
      aria-rowcount={rows.length + 1}
      aria-multiselectable
      tabIndex={0}
    >
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }} role="presentation">
        <div
          role="row"
          aria-rowindex={1}
          className="narrow sticky top-0 z-10 grid items-center gap-2 border-b border-[var(--line)] bg-base-300 px-3 text-[11.5px] font-semibold"
          style={{ gridTemplateColumns: columns, height: HEAD }}
        >
          {heads.filter(stays).map((head, i) => (
            <span key={head || i} role="columnheader">
              {head}
            </span>
          ))}
        </div>
        {virtual.getVirtualItems().map(({ index, start }) => {
          const row = rows[index];
          const { key, selected, focused, data } = state(row);
          return (
            <div
              key={key}
              role="row"
              aria-rowindex={index + 2}
              tabIndex={-1}
              aria-selected={selected}
              {...data}
              className={`absolute inset-x-0 grid cursor-pointer items-center gap-2 border-b border-[var(--line-soft)] px-3 text-[12.3px] ${selected ? 'bg-[var(--honey-wash)]' : ''} ${focused ? 'shadow-[inset_0_0_0_2px_var(--color-accent)]' : ''}`}
              style={{ top: start, height, gridTemplateColumns: columns }}
              onMouseDown={(event) => {
                if (!(event.target as HTMLElement).closest('select, input, button, a')) pick(row, event);
              }}
            >
              {cells(row)
                .filter(stays)
                .map((cell, i) => (
                  <span key={i} role="gridcell" className="grid min-w-0">
                    {cell}
                  </span>
                ))}
            </div>
          );
        })}
        {rows.length === 0 && (
          <div className="pt-16 text-center text-[var(--soft)]" role="row">
            <span role="gridcell">{empty}</span>
          </div>
        )}
      </div>
    </div>
  );
}

/** Whether an element is narrower than this; none is narrower than nothing. */
function useIsNarrow(element: RefObject<HTMLElement | null>, below: number): boolean {
  const [narrow, setNarrow] = useState(false);
  useEffect(() => {
    if (!element.current || below === 0) return;
    const observer = new ResizeObserver(([{ contentRect }]) => setNarrow(contentRect.width < below));
    observer.observe(element.current);
    return () => observer.disconnect();
  }, [element, below]);
  return narrow;
}
