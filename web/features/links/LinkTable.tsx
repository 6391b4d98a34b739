'use client';

import type { AssetImage } from '@kinkajou/core/asset/asset';
import { usesOfImages } from '@kinkajou/core/asset/asset';
import { isLinkedTo, patternOf } from '@kinkajou/core/edits/linkEdits';
import { tilesInWords } from '@kinkajou/core/links/tiles';
import { writtenName } from '@kinkajou/core/links/writtenPath';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef } from 'react';
import { pictureUrl } from '@/ui/api';
import { channelTitle, plural } from '@/ui/format';
import { Mark } from '@/ui/Mark';
import { useFocus } from '../bench/focus.ts';
import { isTyping } from '../bench/keys.ts';
import { useBench } from '../bench/useBench.ts';
import { linkByHand } from './linkByHand.ts';
import { applyProposal } from './RuleBar.tsx';

const ROW = 46;
const COLUMNS = '24px 46px minmax(0, 1.25fr) minmax(0, 1fr) 74px';

/** The written paths as a virtual list; arrows move, Enter links the chosen candidate. */
export function LinkTable({ rows }: { rows: AssetImage[] }) {
  const bench = useBench();
  const { view } = bench;
  const scroller = useRef<HTMLDivElement>(null);
  const { image: focused, set } = useFocus();
  const uses = useMemo(() => usesOfImages(view.state), [view.state]);
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => scroller.current, estimateSize: () => ROW, overscan: 8, paddingStart: 28 });
  const latest = useRef({ rows, bench, virtual });
  latest.current = { rows, bench, virtual };
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event) || useFocus.getState().dialog) return;
      const now = latest.current;
      const at = now.rows.findIndex((row) => row.key === useFocus.getState().image);
      const move = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
      if (move !== 0 && now.rows.length > 0) {
        const next = Math.min(now.rows.length - 1, Math.max(0, at + move));
        useFocus.getState().set({ image: now.rows[next].key, candidate: 0 });
        now.virtual.scrollToIndex(next);
        event.preventDefault();
      }
      const row = now.rows[at];
      const offered = row ? (now.bench.view.candidates[row.key] ?? []).filter((candidate) => !isLinkedTo(row, candidate.path)) : [];
      if ((event.key === 'ArrowRight' || event.key === 'ArrowLeft') && offered.length > 0) {
        const by = event.key === 'ArrowRight' ? 1 : -1;
        useFocus.getState().set({ candidate: (useFocus.getState().candidate + by + offered.length) % offered.length });
        event.preventDefault();
      }
      if (event.key === 'Enter' && row && !(event.target as HTMLElement).closest('button, a')) {
        const chosen = offered[useFocus.getState().candidate] ?? offered[0];
        if (chosen) linkByHand(now.bench, row, chosen);
      }
      if (event.key.toLowerCase() === 'r' && !event.ctrlKey && !event.metaKey && applyProposal(now.bench)) event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  useEffect(() => {
    if (rows.length > 0 && !rows.some((row) => row.key === focused)) set({ image: (rows.find((row) => row.status === 'missing') ?? rows[0]).key });
  }, [rows, focused, set]);
  return (
    <div ref={scroller} className="min-h-0 overflow-auto" role="table" aria-label="Written paths">
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        <div
          role="row"
          className="narrow sticky top-0 z-10 grid h-7 items-center gap-2 border-b border-[var(--line)] bg-base-300 px-3 text-[11.5px] font-semibold"
          style={{ gridTemplateColumns: COLUMNS }}
        >
          <span />
          <span />
          <span role="columnheader">Written by the model</span>
          <span role="columnheader">File</span>
          <span role="columnheader">Feeds</span>
        </div>
        {virtual.getVirtualItems().map((item) => {
          const row = rows[item.index];
          const file = view.images.find((image) => image.path === row.resolved);
          const slots = uses.get(row.key) ?? [];
          const best = view.candidates[row.key]?.[0];
          return (
            <div
              key={row.key}
              role="row"
              tabIndex={-1}
              aria-selected={row.key === focused}
              data-link={writtenName(row.written)}
              data-status={row.status}
              className={`absolute inset-x-0 grid cursor-pointer items-center gap-2 border-b border-[var(--line-soft)] px-3 text-[12.3px] ${row.key === focused ? 'bg-[var(--honey-wash)] shadow-[inset_0_0_0_2px_var(--color-accent)]' : ''}`}
              style={{ top: item.start, height: ROW, gridTemplateColumns: COLUMNS }}
              onMouseDown={() => set({ image: row.key, candidate: 0 })}
            >
              <Mark kind={row.status !== 'missing' ? 'fine' : best?.safe ? 'doubtful' : 'broken'} />
              {file?.info ? (
                <span className="h-9 rounded border border-black/15 bg-cover bg-center" style={{ backgroundImage: `url(${pictureUrl(file.sha256, 96)})` }} />
              ) : (
                <span className="missing-stripes h-9 rounded border border-error" />
              )}
              <span className="min-w-0">
                <b className="block truncate font-semibold">{writtenName(row.written)}</b>
                <span className="block truncate font-mono text-[11px] text-[var(--soft)]" title={row.written}>
                  {row.written}
                </span>
              </span>
              <span className="min-w-0">
                <span className="block truncate font-mono text-[11.5px]" title={row.resolved ?? ''}>
                  {row.tiles ? patternOf(row) : (row.resolved ?? (best ? `${best.path}?` : 'nothing fits'))}
                </span>
                <span className="narrow block truncate text-[11px] text-[var(--soft)]">
                  {row.tiles
                    ? `${plural(row.tiles.length, 'tile')}: ${tilesInWords(row.tiles.map((tile) => tile.number))}`
                    : row.how || (best ? best.reasons.join(', ') : 'upload it')}
                </span>
              </span>
              <span
                className="narrow truncate text-[11.5px] text-[var(--soft)]"
                title={slots.map((slot) => `${slot.material}, ${channelTitle(slot.channel)}`).join('\n')}
              >
                {slots.length === 1 ? channelTitle(slots[0].channel) : plural(slots.length, 'slot')}
              </span>
            </div>
          );
        })}
        {rows.length === 0 && (
          <p className="pt-16 text-center text-[var(--soft)]">{view.state.images.length === 0 ? 'The model names no images.' : 'No path of this kind.'}</p>
        )}
      </div>
    </div>
  );
}
