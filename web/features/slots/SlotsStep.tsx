'use client';

import { useDroppable } from '@dnd-kit/core';
import type { SlotAddress } from '@kinkajou/core/asset/asset';
import { assignByNameEdit } from '@kinkajou/core/edits/slotEdits';
import { distinctNames } from '@kinkajou/core/parcel/distinctNames';
import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { CHANNELS, type ChannelName, COLOUR_CHANNELS } from '@kinkajou/core/scene/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Columns3, Images, LayoutTemplate, Rows3 } from 'lucide-react';
import {
  type CSSProperties,
  type MouseEvent,
  type ReactNode,
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
} from 'react';
import { toast } from 'sonner';
import { Bar } from '@/ui/Bar';
import { Chip } from '@/ui/Chip';
import { BOARD_ROWS, type BoardRows, useChoices } from '@/ui/choices';
import { Field } from '@/ui/Field';
import { plural } from '@/ui/format';
import { focusMaterial, sameSlot, useFocus } from '../bench/focus.ts';
import { useBench } from '../bench/useBench.ts';
import { BoardCell } from './BoardCell.tsx';
import {
  type Cell,
  cellOf,
  columnsOf,
  marksOf,
  type RowFilter,
  rectangle,
  rowMark,
  slotKey,
} from './boardModel.ts';
import type { DropTarget } from './ImageDrag.tsx';
import { ImageTray } from './ImageTray.tsx';
import { SlotDetails } from './SlotDetails.tsx';
import { useBoardCommands } from './useBoardCommands.ts';

/**
 * Heights of a row and of the picture in it, and whether its name is below; a dense board of twelve rows fits
 * a small screen.
 */
const ROWS: Record<BoardRows, { height: number; face: number; label: 'flex' | 'none' }> = {
  roomy: { height: 76, face: 46, label: 'flex' },
  middle: { height: 52, face: 27, label: 'flex' },
  dense: { height: 28, face: 22, label: 'none' },
};
const NAME_WIDTH = 132;
const CELL_WIDTH = 79;
const EMPTY_CELL: Cell = { kind: 'empty', mark: 'empty', channel: null, image: null, label: '' };

/** The slot board: materials by channels, with the focused slot's details under it. */
export function SlotsStep() {
  const bench = useBench();
  const { view } = bench;
  const [filter, setFilter] = useState<RowFilter>('all');
  const [search, setSearch] = useState('');
  const { shownColumns, hiddenColumns, imageTray: tray, boardRows, set: setChoices } = useChoices();
  const nextRows = BOARD_ROWS[(BOARD_ROWS.indexOf(boardRows) + 1) % BOARD_ROWS.length];
  const set = useFocus((state) => state.set);
  const marks = useMemo(() => marksOf(view.findings), [view.findings]);
  const columns = useMemo(
    () => columnsOf(view.state, shownColumns, hiddenColumns),
    [view.state, shownColumns, hiddenColumns],
  );
  const tallies = useMemo(() => {
    const found = view.state.materials.map((material) => rowMark(material, CHANNELS, marks));
    return {
      broken: found.filter((mark) => mark === 'broken').length,
      doubtful: found.filter((mark) => mark === 'doubtful').length,
    };
  }, [view.state, marks]);
  const rows = useMemo(() => {
    const words = search.toLowerCase();
    return view.state.materials.filter(
      (material) =>
        (filter === 'all' || rowMark(material, CHANNELS, marks) === filter) &&
        material.key.toLowerCase().includes(words),
    );
  }, [view.state, filter, search, marks]);
  const focused = useFocus(({ slot }) => slot?.material);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a material chosen elsewhere is shown, whatever is filtered; a filter chosen later stays
  useEffect(() => {
    if (focused === undefined || rows.some(({ key }) => key === focused)) return;
    setFilter('all');
    setSearch('');
  }, [focused]);
  const assign = () => {
    const edit = assignByNameEdit(view);
    if (edit) bench.apply([edit]);
    else toast('No open slot has an image whose name fits.');
  };
  return (
    <div className="@container h-full min-h-0">
      <div className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[40px_minmax(0,1fr)_auto] @[1040px]:grid-cols-[minmax(0,1fr)_380px] @[1040px]:grid-rows-[40px_minmax(0,1fr)]">
        <Bar className="overflow-x-auto @[1040px]:col-span-2">
          <h2 className="text-[14px] font-bold whitespace-nowrap">Slots</h2>
          {(['all', 'broken', 'doubtful'] as const).map((key) => (
            <Chip key={key} aria-pressed={filter === key} onClick={() => setFilter(key)}>
              {key} {key === 'all' ? view.state.materials.length : tallies[key]}
            </Chip>
          ))}
          <Field
            className="w-20"
            placeholder="Find"
            aria-label="Find a material"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
          <span className="flex-1" />
          <Chip
            disabled={bench.busy}
            title="Assign to open slots every image that fits by name and pixels"
            onClick={assign}
          >
            Assign
          </Chip>
          <IconChip label="Slot templates" onClick={() => set({ dialog: 'templates' })}>
            <LayoutTemplate size={14} />
          </IconChip>
          <IconChip
            label={`Rows are ${boardRows}; ${nextRows} ones`}
            onClick={() => setChoices({ boardRows: nextRows })}
          >
            <Rows3 size={14} />
          </IconChip>
          <IconChip
            label="Images of the parcel"
            pressed={tray}
            onClick={() => setChoices({ imageTray: !tray })}
          >
            <Images size={14} />
          </IconChip>
          <ColumnsMenu columns={columns} />
        </Bar>
        <Board rows={rows} columns={columns} marks={marks} />
        <SlotDetails />
        {tray && (
          <div className="min-w-0 @[1040px]:col-span-2">
            <ImageTray />
          </div>
        )}
      </div>
    </div>
  );
}

interface BoardProps {
  rows: ReturnType<typeof useBench>['view']['state']['materials'];
  columns: ChannelName[];
  marks: ReturnType<typeof marksOf>;
}

function Board({ rows, columns, marks }: BoardProps) {
  const bench = useBench();
  const { view } = bench;
  const scroller = useRef<HTMLDivElement>(null);
  const { slot, selected, set } = useFocus();
  const { height, face, label } = ROWS[useChoices((choices) => choices.boardRows)];
  const images = useMemo(() => new Map(view.images.map((image) => [image.path, image])), [view.images]);
  const entries = useMemo(() => new Map(view.state.images.map((image) => [image.key, image])), [view.state]);
  const names = useMemo(
    () => distinctNames(view.state.images.map(({ resolved, written }) => resolved ?? written)),
    [view.state],
  );
  // Cells keep their identity between edits of others, so that scrolling and selecting draws only what
  // changed.
  const cells = useMemo(
    () =>
      new Map(
        rows.flatMap((material) =>
          columns.map((channel) => [
            slotKey({ material: material.key, channel }),
            cellOf(material, channel, { entries, images, marks, names }),
          ]),
        ),
      ),
    [rows, columns, entries, images, marks, names],
  );
  const keys = useMemo(() => rows.map((material) => material.key), [rows]);
  const chosen = useMemo(() => new Set(selected.map(slotKey)), [selected]);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 6,
    paddingStart: 40,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: other heights are other places
  useEffect(() => virtual.measure(), [height, virtual]);
  useBoardCommands({ rows: keys, columns });
  // Wherever it was chosen: by keys, in the view, or by name.
  useEffect(() => {
    const row = keys.indexOf(slot?.material ?? '');
    if (row >= 0) virtual.scrollToIndex(row);
  }, [slot?.material, keys, virtual]);
  useEffect(() => {
    if (slot === null && keys.length > 0)
      set({
        slot: { material: keys[0], channel: columns[0] },
        anchor: { material: keys[0], channel: columns[0] },
        selected: [{ material: keys[0], channel: columns[0] }],
      });
  }, [slot, keys, columns, set]);
  const pick = useCallback(
    (material: string, channel: ChannelName, event: MouseEvent) => {
      const here: SlotAddress = { material, channel };
      const { anchor, selected: before } = useFocus.getState();
      if (event.shiftKey && anchor)
        return set({ slot: here, selected: rectangle(anchor, here, keys, columns) });
      if (event.ctrlKey || event.metaKey) {
        const had = before.some((other) => sameSlot(other, here));
        return set({
          slot: here,
          anchor: here,
          selected: had ? before.filter((other) => !sameSlot(other, here)) : [...before, here],
        });
      }
      set({ slot: here, anchor: here, selected: [here] });
    },
    [keys, columns, set],
  );
  const open = useCallback(() => set({ dialog: 'picker' }), [set]);
  const template = `${NAME_WIDTH}px repeat(${columns.length}, minmax(${CELL_WIDTH}px, 1fr))`;
  return (
    <div
      ref={scroller}
      className="min-h-0 overflow-auto"
      role="grid"
      aria-label="Slot board"
      aria-rowcount={rows.length}
      aria-multiselectable
      tabIndex={0}
    >
      <div
        style={
          {
            height: virtual.getTotalSize(),
            position: 'relative',
            minWidth: NAME_WIDTH + columns.length * CELL_WIDTH,
            '--row': `${height}px`,
            '--face': `${face}px`,
            '--label': label,
          } as CSSProperties
        }
      >
        <div
          className="sticky top-0 z-20 grid h-10 border-b border-[var(--line)] bg-base-300"
          style={{ gridTemplateColumns: template }}
          role="row"
        >
          <Heading first title="Material" below={`${rows.length} of ${view.state.materials.length}`} />
          {columns.map((channel) => (
            <Heading
              key={channel}
              title={channelTitle(channel)}
              below={COLOUR_CHANNELS.has(channel) ? 'colour' : 'data'}
            />
          ))}
        </div>
        {virtual.getVirtualItems().map((item) => {
          const material = rows[item.index];
          return (
            <div
              key={material.key}
              role="row"
              aria-rowindex={item.index + 1}
              className="absolute inset-x-0 grid"
              style={{ top: item.start, gridTemplateColumns: template }}
            >
              <RowHeader material={material} faces={view.source.facesPerMaterial[material.key] ?? 0} />
              {columns.map((channel) => (
                <BoardCell
                  key={channel}
                  material={material.key}
                  channel={channel}
                  cell={cells.get(slotKey({ material: material.key, channel })) ?? EMPTY_CELL}
                  selected={chosen.has(slotKey({ material: material.key, channel }))}
                  active={slot?.material === material.key && slot.channel === channel}
                  onPick={pick}
                  onOpen={open}
                />
              ))}
            </div>
          );
        })}
        {rows.length === 0 && (
          <p className="pt-16 text-center text-[var(--soft)]">
            {view.state.materials.length === 0
              ? 'This model has no materials.'
              : 'No material fits the filter.'}
          </p>
        )}
      </div>
    </div>
  );
}

function RowHeader({ material, faces }: { material: BoardProps['rows'][number]; faces: number }) {
  const rows = useChoices((choices) => choices.boardRows);
  const { setNodeRef, isOver } = useDroppable({
    id: `material:${material.key}`,
    data: { on: 'material', material: material.key } satisfies DropTarget,
  });
  return (
    <div
      ref={setNodeRef}
      role="rowheader"
      data-material={material.key}
      className={`sticky left-0 z-10 border-b border-[var(--line-soft)] h-[var(--row)] overflow-hidden py-1 pr-1 pl-3 cursor-pointer ${isOver ? 'bg-[var(--honey-wash)]' : 'bg-base-100'}`}
      title={`${material.key}: its faces in the view`}
      onMouseDown={() => focusMaterial(material.key)}
    >
      <b
        className={`text-[12.8px] break-words ${rows === 'roomy' ? 'line-clamp-2 leading-tight' : 'block truncate leading-5'}`}
      >
        {material.key}
      </b>
      <small
        className={`narrow text-[11px] text-[var(--soft)] ${rows === 'dense' ? 'sr-only' : 'block truncate'}`}
      >
        {plural(faces, 'face')}, {material.alphaMode === 'opaque' ? 'opaque' : material.alphaMode}
      </small>
    </div>
  );
}

function Heading({ title, below, first = false }: { title: string; below: string; first?: boolean }) {
  return (
    <div
      role="columnheader"
      className={`narrow overflow-hidden px-1.5 pt-1 text-[11.5px] leading-tight font-semibold whitespace-nowrap ${first ? 'sticky left-0 z-10 bg-base-300 pl-3' : ''}`}
    >
      {title}
      <small className="block text-[10.5px] font-medium text-[var(--soft)]">{below}</small>
    </div>
  );
}

function IconChip({
  label,
  pressed,
  onClick,
  children,
}: {
  label: string;
  pressed?: boolean;
  onClick: () => void;
  children: ReactNode;
}) {
  return (
    <Chip aria-label={label} title={label} aria-pressed={pressed} onClick={onClick}>
      {children}
    </Chip>
  );
}

function ColumnsMenu({ columns }: { columns: ChannelName[] }) {
  const { shownColumns, hiddenColumns, set } = useChoices();
  const toggle = (channel: ChannelName) => {
    if (columns.includes(channel))
      set({
        shownColumns: shownColumns.filter((other) => other !== channel),
        hiddenColumns: [...hiddenColumns, channel],
      });
    else
      set({
        shownColumns: [...shownColumns, channel],
        hiddenColumns: hiddenColumns.filter((other) => other !== channel),
      });
  };
  return (
    <>
      <Chip
        popoverTarget="board-columns"
        aria-label="Columns"
        title="Columns of the board"
        style={{ anchorName: '--board-columns' } as never}
      >
        <Columns3 size={14} />
      </Chip>
      <div
        id="board-columns"
        popover="auto"
        className="dropdown dropdown-end mt-1 w-44 rounded-md border border-[var(--line)] bg-base-100 p-2 shadow-lg"
        style={{ positionAnchor: '--board-columns' } as never}
      >
        {CHANNELS.map((channel) => (
          <label key={channel} className="flex cursor-pointer items-center gap-2 px-1 py-0.5 text-[12.3px]">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={columns.includes(channel)}
              onChange={() => toggle(channel)}
            />
            {channelTitle(channel)}
          </label>
        ))}
      </div>
    </>
  );
}
