'use client';

import type { AssetImage, SlotAddress } from '@kinkajou/core/asset/asset';
import { usesOfImages } from '@kinkajou/core/asset/asset';
import { isLinkedTo, patternOf } from '@kinkajou/core/edits/linkEdits';
import type { Candidate } from '@kinkajou/core/links/rank';
import { tilesInWords } from '@kinkajou/core/links/tiles';
import { writtenName } from '@kinkajou/core/links/writtenPath';
import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { Fragment, type ReactNode, useEffect, useMemo, useRef } from 'react';
import { useCommands } from '@/ui/commands/useCommands';
import { plural } from '@/ui/format';
import { Mark, type MarkKind } from '@/ui/Mark';
import { Middle } from '@/ui/Middle';
import { RowList } from '@/ui/RowList';
import { Thumbnail } from '@/ui/Thumbnail';
import { useFocus } from '../bench/focus.ts';
import { type BenchView, useBench } from '../bench/useBench.ts';
import { linkByHand } from './linkByHand.ts';
import { applyProposal } from './RuleBar.tsx';

const ROW = 46;
/** Rows down and candidates to the right. */
const MOVES: Record<string, [number, number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
};
const COLUMNS = '24px 46px minmax(0, 1.25fr) minmax(0, 1fr) 74px';

/** The written paths as a virtual list; arrows move, Enter links the chosen candidate. */
export function LinkTable({ rows }: { rows: AssetImage[] }) {
  const bench = useBench();
  const { view } = bench;
  const scrollTo = useRef<(index: number) => void>(() => {});
  const { image: focused, set } = useFocus();
  const uses = useMemo(() => usesOfImages(view.state), [view.state]);
  const candidate = useFocus((focus) => focus.candidate);
  const index = rows.findIndex((row) => row.key === focused);
  const row: AssetImage | undefined = rows[index];
  const offered = row ? (view.candidates[row.key] ?? []).filter((one) => !isLinkedTo(row, one.path)) : [];
  const chosen = offered[candidate] ?? offered[0];
  useCommands({
    move: (event) => {
      const [down, right] = MOVES[event?.key ?? ''] ?? [0, 0];
      if (right !== 0)
        return (
          offered.length > 0 && set({ candidate: (candidate + right + offered.length) % offered.length })
        );
      if (rows.length === 0) return false;
      const next = Math.min(rows.length - 1, Math.max(0, index + down));
      set({ image: rows[next].key, candidate: 0 });
      scrollTo.current(next);
    },
    link: chosen ? () => linkByHand(bench, row, chosen) : null,
    applyRule: () => applyProposal(bench),
  });
  useEffect(() => {
    if (rows.length > 0 && !rows.some((row) => row.key === focused))
      set({ image: (rows.find(({ key, status }) => status === 'missing' && uses.has(key)) ?? rows[0]).key });
  }, [rows, uses, focused, set]);
  return (
    <RowList
      label="Written paths"
      columns={COLUMNS}
      heads={['', '', 'Written by the model', 'File', 'Feeds']}
      rows={rows}
      height={ROW}
      scrollTo={scrollTo}
      state={(row) => ({
        key: row.key,
        selected: row.key === focused,
        focused: row.key === focused,
        data: {
          'data-link': writtenName(row.written),
          'data-status': isUnread(row, uses.get(row.key) ?? []) ? 'unread' : row.status,
        },
      })}
      pick={({ key }) => set({ image: key, candidate: 0 })}
      empty={view.state.images.length === 0 ? 'The model names no images.' : 'No path of this kind.'}
      cells={(row) => cellsOf(row, view, uses.get(row.key) ?? [])}
    />
  );
}

function cellsOf(row: AssetImage, view: BenchView, slots: readonly SlotAddress[]): ReactNode[] {
  const file = view.images.find((image) => image.path === row.resolved);
  const best = view.candidates[row.key]?.[0];
  const unread = isUnread(row, slots);
  const path = row.tiles ? patternOf(row) : (row.resolved ?? (best ? `${best.path}?` : 'nothing fits'));
  const how = row.tiles
    ? `${plural(row.tiles.length, 'tile')}: ${tilesInWords(row.tiles.map((tile) => tile.number))}`
    : row.how || (unread ? '' : best?.reasons.join(', ') || 'upload it');
  return [
    <Mark key="mark" kind={unread ? 'empty' : markOf(row, best)} />,
    unread ? (
      <span key="picture" />
    ) : (
      <Thumbnail key="picture" sha256={file?.info ? file.sha256 : null} className="h-9" />
    ),
    <Fragment key="written">
      <b className="truncate font-semibold">{writtenName(row.written)}</b>
      <Middle className="font-mono text-[11px] text-[var(--soft)]" text={row.written} />
    </Fragment>,
    <Fragment key="file">
      {unread ? (
        <span className="truncate text-[12px] text-[var(--soft)]">nothing reads it any more</span>
      ) : (
        <Middle className="font-mono text-[11.5px]" text={path} />
      )}
      <span className="narrow truncate text-[11px] text-[var(--soft)]">{how}</span>
    </Fragment>,
    <span
      key="slots"
      className="narrow truncate text-[11.5px] text-[var(--soft)]"
      title={slots.map((slot) => `${slot.material}, ${channelTitle(slot.channel)}`).join('\n')}
    >
      {slotsInWords(slots)}
    </span>,
  ];
}

function slotsInWords(slots: readonly SlotAddress[]): string {
  if (slots.length === 0) return 'no slot';
  return slots.length === 1 ? channelTitle(slots[0].channel) : plural(slots.length, 'slot');
}

/** Whether it is missing, and no slot asks for it since others took its place. */
function isUnread(row: AssetImage, slots: readonly SlotAddress[]): boolean {
  return row.status === 'missing' && slots.length === 0;
}

function markOf(row: AssetImage, best: Candidate | undefined): MarkKind {
  if (row.status !== 'missing') return 'fine';
  return best?.safe ? 'doubtful' : 'broken';
}
