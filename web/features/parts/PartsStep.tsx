'use client';

import { useDroppable } from '@dnd-kit/core';
import type { Part } from '@kinkajou/core/asset/parts';
import {
  Box,
  Camera,
  ChevronDown,
  ChevronRight,
  Eye,
  EyeOff,
  FolderClosed,
  Lightbulb,
  Spline,
} from 'lucide-react';
import { type MouseEvent, type ReactNode, type RefObject, useEffect, useMemo, useRef } from 'react';
import { Bar } from '@/ui/Bar';
import { Chip } from '@/ui/Chip';
import { useCommands } from '@/ui/commands/useCommands';
import { FIELD } from '@/ui/Field';
import { count, plural } from '@/ui/format';
import { Mark, type MarkKind } from '@/ui/Mark';
import { RowList } from '@/ui/RowList';
import { useFocus } from '../bench/focus.ts';
import { useBench } from '../bench/useBench.ts';
import type { DropTarget } from '../slots/ImageDrag.tsx';
import { ImageTray } from '../slots/ImageTray.tsx';
import { PartActions } from './PartActions.tsx';
import { hide, isHidden, NOTHING, selectParts, usePartFocus } from './partFocus.ts';
import { keysBetween, marksOf, type PartRow, treeRows } from './partTree.ts';
import { placingOf } from './placing.ts';
import { viewParts } from './viewParts.ts';

const ICONS: Record<string, typeof Box> = { mesh: Box, camera: Camera, light: Lightbulb, bone: Spline };
const ROW = 28;
/** Without the sizes, which the view tells too. */
const NARROW = {
  below: 460,
  columns: '16px minmax(0, 1fr) 48px minmax(0, 84px) 26px',
  without: [4],
} as const;
const COLUMNS = '16px minmax(0, 1fr) 64px minmax(0, 130px) 118px 26px';

/** The model's own parts as a tree: found, selected, shown, and changed. */
export function PartsStep() {
  const { view } = useBench();
  const { selected, focused, search, folded, hidden, revealed, set } = usePartFocus();
  const scrollTo = useRef<(index: number) => void>(() => {});
  const searchField = useRef<HTMLInputElement>(null);
  const parts = viewParts(view);
  const rows = useMemo(() => treeRows(parts, { search, folded }), [parts, search, folded]);
  const marks = useMemo(() => marksOf(view.findings), [view.findings]);
  const chosen = useMemo(() => new Set(selected), [selected]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another asset has other parts
  useEffect(() => set(NOTHING), [view.id]);
  useRevealed(rows, scrollTo);
  useSelectionKeys(rows, parts, scrollTo, () => searchField.current?.focus());
  return (
    <div
      className="grid h-full"
      style={{ gridTemplateRows: '40px minmax(0, 1fr) auto auto', gridTemplateColumns: 'minmax(0, 1fr)' }}
    >
      <Bar>
        <h2 className="text-[14px] font-bold">Parts</h2>
        <span className="min-w-0 truncate text-[var(--soft)]" data-counts>
          {search === ''
            ? plural(parts.length, 'part')
            : `${count(rows.length)} of ${plural(parts.length, 'part')}`}
          {selected.length > 0 &&
            `, ${count(selected.length)} selected (${plural(facesOf(parts, chosen), 'face')})`}
        </span>
        <span className="flex-1" />
        <Chip onClick={() => useFocus.getState().set({ dialog: 'join' })}>join ...</Chip>
        <Chip onClick={() => useFocus.getState().set({ dialog: 'takeoff' })}>areas, volumes ...</Chip>
        <input
          ref={searchField}
          className={`${FIELD} w-52 min-w-16 shrink`}
          value={search}
          placeholder="bolt*, or /^bolt_\d+$/"
          aria-label="Parts whose names fit"
          onChange={(event) => set({ search: event.target.value })}
          onKeyDown={(event) => {
            if (event.key === 'Enter') selectParts(rows.map(({ part }) => part.key));
            if (event.key === 'Enter' || event.key === 'Escape') event.currentTarget.blur();
          }}
        />
      </Bar>
      <RowList
        label="Parts"
        columns={COLUMNS}
        narrow={NARROW}
        heads={['', 'Part', 'Faces', 'Material', 'Size in m', '']}
        rows={rows}
        height={ROW}
        scrollTo={scrollTo}
        state={({ part }) => ({
          key: part.key,
          selected: chosen.has(part.key),
          focused: part.key === focused,
        })}
        pick={({ part }, event) => choose(rows, part.key, event)}
        empty={search === '' ? 'This model has no parts.' : 'No part has such a name.'}
        cells={(row) =>
          cellsOf(row, marks.get(row.part.key), {
            folded: folded.has(row.part.key),
            hidden: isHidden(row.part, { hidden, revealed }),
            searching: search !== '',
          })
        }
      />
      <PartActions parts={parts} />
      <ImageTray />
    </div>
  );
}

/** Faces of the chosen parts themselves. */
function facesOf(parts: readonly Part[], chosen: ReadonlySet<string>): number {
  return parts.reduce((sum, { key, polygons }) => sum + (chosen.has(key) ? polygons : 0), 0);
}

function cellsOf(
  { part, depth, children }: PartRow,
  found: { mark: MarkKind; texts: string[] } | undefined,
  { folded, hidden, searching }: { folded: boolean; hidden: boolean; searching: boolean },
): ReactNode[] {
  const Icon = ICONS[part.kind] ?? FolderClosed;
  const materials = [...new Set(part.slots)].filter((key) => key !== '');
  const gone = part.dropped ? 'line-through opacity-55' : '';
  return [
    <span key="mark" title={found?.texts.join('\n')}>
      {found ? <Mark kind={found.mark} /> : null}
    </span>,
    <PartName key="name" part={part.key}>
      <span className="flex min-w-0 items-center gap-1.5" style={{ paddingLeft: searching ? 0 : depth * 14 }}>
        {children > 0 && !searching ? (
          <button
            type="button"
            className="cursor-pointer"
            aria-label={folded ? `Unfold ${part.name}` : `Fold ${part.name}`}
            aria-expanded={!folded}
            onClick={() => fold(part.key, !folded)}
          >
            {folded ? <ChevronRight size={12} /> : <ChevronDown size={12} />}
          </button>
        ) : (
          <span className="w-3 shrink-0" />
        )}
        <Icon size={13} className="shrink-0 text-[var(--soft)]" />
        <span className={`truncate ${gone}`} title={part.key}>
          {part.name || <i>without a name</i>}
        </span>
        {part.collision && part.collision.shape !== 'none' && (
          <span className="text-[11px] text-secondary">+{part.collision.shape}</span>
        )}
        {part.hidden && (
          <span className="shrink-0 text-[11px] text-[var(--soft)]" title="The file hides it">
            hidden
          </span>
        )}
        {part.cut && <span className="text-[11px] text-secondary">cut by {part.cut}</span>}
      </span>
    </PartName>,
    <span key="faces" className="truncate font-mono text-[11.3px]">
      {part.polygons > 0 ? count(part.polygons) : ''}
    </span>,
    <span key="materials" className="narrow truncate" title={materials.join(', ')}>
      {materials.join(', ')}
    </span>,
    <span key="size" className="truncate font-mono text-[11px] text-[var(--soft)]">
      {part.bounds ? sizeOf(part.bounds) : ''}
    </span>,
    <button
      key="eye"
      type="button"
      className="btn btn-ghost btn-xs btn-square"
      aria-label={hidden ? `Show ${part.name}` : `Hide ${part.name}`}
      aria-pressed={hidden}
      onClick={() => hide([part.key], !hidden)}
    >
      {hidden ? <EyeOff size={12} /> : <Eye size={12} className="opacity-40" />}
    </button>,
  ];
}

/** Sides in metres, two digits each, so that they fit beside each other. */
function sizeOf({ min, max }: NonNullable<Part['bounds']>): string {
  return max.map((value, k) => Number((value - min[k]).toPrecision(2)).toString()).join(' × ');
}

/** The name's place takes an image that is dropped on it as a material of the part. */
function PartName({ part, children }: { part: string; children: ReactNode }) {
  const { setNodeRef, isOver } = useDroppable({
    id: `part:${part}`,
    data: { on: 'part', node: part } satisfies DropTarget,
  });
  return (
    <span
      ref={setNodeRef}
      data-part={part}
      className={`flex h-[26px] min-w-0 items-center ${isOver ? 'bg-[var(--honey-wash)]' : ''}`}
    >
      {children}
    </span>
  );
}

function choose(
  rows: readonly PartRow[],
  key: string,
  { ctrlKey, metaKey, shiftKey }: Pick<MouseEvent, 'ctrlKey' | 'metaKey' | 'shiftKey'>,
): void {
  const { selected, anchor, set } = usePartFocus.getState();
  if (ctrlKey || metaKey)
    set({
      selected: selected.includes(key) ? selected.filter((other) => other !== key) : [...selected, key],
      anchor: key,
      focused: key,
    });
  else if (shiftKey && anchor) set({ selected: keysBetween(rows, anchor, key), focused: key });
  else set({ selected: [key], anchor: key, focused: key });
}

function fold(key: string, folded: boolean): void {
  const next = new Set(usePartFocus.getState().folded);
  if (folded) next.add(key);
  else next.delete(key);
  usePartFocus.getState().set({ folded: next });
}

/** A finding that names a part, and a part picked in the view, bring its row into sight. */
function useRevealed(rows: readonly PartRow[], scrollTo: RefObject<(index: number) => void>): void {
  const { view } = useBench();
  const finding = useFocus((focus) => focus.finding);
  const focused = usePartFocus((focus) => focus.focused);
  const part = view.findings.find(({ key }) => key === finding)?.target.part;
  useEffect(() => {
    if (part !== undefined) selectParts([part]);
  }, [part]);
  const place = rows.findIndex((row) => row.part.key === focused);
  useEffect(() => {
    if (place >= 0) scrollTo.current(place);
  }, [place, scrollTo]);
}

/** Arrows move and fold, Shift selects more, Ctrl+A all that is listed; Delete drops. */
function useSelectionKeys(
  rows: readonly PartRow[],
  parts: readonly Part[],
  scrollTo: RefObject<(index: number) => void>,
  search: () => void,
): void {
  const { apply } = useBench();
  const step = (event: KeyboardEvent | undefined, extend: boolean) => {
    const { focused, anchor, set } = usePartFocus.getState();
    const index = rows.findIndex(({ part }) => part.key === focused);
    const row = rows[index];
    if (!extend && row && (event?.key === 'ArrowLeft' || event?.key === 'ArrowRight'))
      return fold(row.part.key, event.key === 'ArrowLeft');
    const by = { ArrowDown: 1, ArrowUp: -1 }[event?.key ?? ''];
    if (by === undefined || rows.length === 0) return false;
    const next = Math.min(rows.length - 1, Math.max(0, index + by));
    const { key } = rows[next].part;
    if (extend && anchor) set({ selected: keysBetween(rows, anchor, key), focused: key });
    else selectParts([key]);
    scrollTo.current(next);
  };
  useCommands({
    move: (event) => step(event, false),
    extend: (event) => step(event, true),
    selectColumn: () => selectParts(rows.map(({ part }) => part.key)),
    findPart: search,
    placePart: () => {
      const { selected, placing, set } = usePartFocus.getState();
      const chosen = parts.filter(({ key, dropped }) => selected.includes(key) && !dropped);
      if (chosen.length > 0) set({ placing: placing && !placing.sent ? null : placingOf(chosen, parts) });
    },
    takeoff: () => useFocus.getState().set({ dialog: 'takeoff' }),
    join: () => useFocus.getState().set({ dialog: 'join' }),
    hidePart: () => {
      const focus = usePartFocus.getState();
      const chosen = parts.filter(({ key }) => focus.selected.includes(key));
      hide(focus.selected, !chosen.every((part) => isHidden(part, focus)));
    },
    showAlone: () => {
      const { selected, alone, set } = usePartFocus.getState();
      set({ alone: alone || selected.length === 0 ? null : new Set(withBelow(parts, selected)) });
    },
    dropPart: () => {
      const { selected } = usePartFocus.getState();
      if (selected.length === 0) return false;
      const all = parts.filter(({ key }) => selected.includes(key)).every(({ dropped }) => dropped);
      apply([
        {
          kind: 'editParts',
          change: { do: all ? 'restore' : 'drop', parts: selected },
          origin: { from: 'hand', detail: 'parts' },
        },
      ]);
    },
  });
}

/** Keys with those of all that hangs below them. */
function withBelow(parts: readonly Part[], keys: readonly string[]): string[] {
  const found = new Set(keys);
  for (let before = -1; before !== found.size; ) {
    before = found.size;
    for (const { key, parent } of parts) if (parent !== null && found.has(parent)) found.add(key);
  }
  return [...found];
}
