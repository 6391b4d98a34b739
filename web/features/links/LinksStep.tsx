'use client';

import type { AssetImage } from '@kinkajou/core/asset/asset';
import { usesOfImages } from '@kinkajou/core/asset/asset';
import { writtenName } from '@kinkajou/core/links/writtenPath';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Upload } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { pictureUrl } from '@/ui/api';
import { bytes, channelTitle, plural } from '@/ui/format';
import { Mark } from '@/ui/Mark';
import { useFocus } from '../bench/focus.ts';
import { isTyping } from '../bench/keys.ts';
import { type Bench, useBench } from '../bench/useBench.ts';
import { joinLinks } from '../docket/mend.ts';
import { CandidateRow } from './CandidateRow.tsx';
import { linkEdit, unlinkEdit } from './linkEdits.ts';
import { IMAGE_ACCEPT, useImageUpload } from './useImageUpload.ts';

const ROW = 46;
const COLUMNS = '24px 46px minmax(0, 1.25fr) minmax(0, 1fr) 74px';
type Filter = 'all' | 'missing' | 'found' | 'embedded';

/** Every path the model wrote, where it was found or why not. */
export function LinksStep() {
  const bench = useBench();
  const { view } = bench;
  const [filter, setFilter] = useState<Filter>('all');
  const input = useRef<HTMLInputElement>(null);
  const upload = useImageUpload(view.parcel.id);
  const rows = useMemo(() => view.state.images.filter((image) => filter === 'all' || image.status === filter), [view.state, filter]);
  const counts = (status: Filter) => view.state.images.filter((image) => status === 'all' || image.status === status).length;
  const safe = safeLinks(bench);
  return (
    <div className="grid h-full" style={{ gridTemplateRows: '40px minmax(0, 1fr) auto' }}>
      <div className="bar overflow-x-auto">
        <h2 className="text-[14px] font-bold">Links</h2>
        {(['all', 'missing', 'found', 'embedded'] as const).map((key) => (
          <button key={key} type="button" className="chip" aria-pressed={filter === key} onClick={() => setFilter(key)}>
            {key} {counts(key)}
          </button>
        ))}
        <span className="flex-1" />
        <button type="button" className="act main" disabled={safe.length === 0 || bench.busy} onClick={() => bench.apply(joinLinks(safe))}>
          Link all safe ({safe.length})
        </button>
        <button type="button" className="act flex items-center gap-1" onClick={() => input.current?.click()}>
          <Upload size={13} /> Upload images
        </button>
        <input
          ref={input}
          type="file"
          multiple
          hidden
          data-testid="add-images"
          accept={IMAGE_ACCEPT}
          onChange={(event) => {
            void upload([...(event.target.files ?? [])]);
            event.target.value = '';
          }}
        />
      </div>
      <LinkTable rows={rows} />
      <LinkDetails />
    </div>
  );
}

function safeLinks({ view }: Bench) {
  const uses = usesOfImages(view.state);
  return view.state.images
    .filter((image) => image.status === 'missing' && uses.has(image.key))
    .flatMap((image) => {
      const best = view.candidates[image.key]?.[0];
      return best?.safe ? [linkEdit(image.key, best)] : [];
    });
}

function LinkTable({ rows }: { rows: AssetImage[] }) {
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
        useFocus.getState().set({ image: now.rows[next].key });
        now.virtual.scrollToIndex(next);
        event.preventDefault();
      }
      if (event.key === 'Enter' && at >= 0 && !(event.target as HTMLElement).closest('button, a')) {
        const best = now.bench.view.candidates[now.rows[at].key]?.find((candidate) => candidate.path !== now.rows[at].resolved);
        if (best && now.rows[at].status === 'missing') now.bench.apply([linkEdit(now.rows[at].key, best)]);
      }
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
              onMouseDown={() => set({ image: row.key })}
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
                  {row.resolved ?? (best ? `${best.path}?` : 'nothing fits')}
                </span>
                <span className="narrow block truncate text-[11px] text-[var(--soft)]">{row.how || (best ? best.reasons.join(', ') : 'upload it')}</span>
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

function LinkDetails() {
  const bench = useBench();
  const { view } = bench;
  const key = useFocus((state) => state.image);
  const row = view.state.images.find((image) => image.key === key);
  if (!row) return null;
  const file = view.images.find((image) => image.path === row.resolved);
  const candidates = (view.candidates[row.key] ?? []).filter((candidate) => candidate.path !== row.resolved);
  const touched = view.log.some((entry) => !entry.undone) && row.status === 'found';
  return (
    <section
      className="grid max-h-[240px] min-h-[150px] gap-3.5 overflow-auto border-t border-[var(--line)] bg-base-200 px-3.5 py-2.5"
      style={{ gridTemplateColumns: '128px minmax(0, 1fr)' }}
      aria-label="Link details"
    >
      {file?.info ? (
        <div className="h-32 rounded-[5px] border border-black/20 bg-cover bg-center" style={{ backgroundImage: `url(${pictureUrl(file.sha256, 384)})` }} />
      ) : (
        <div className="missing-stripes grid h-32 place-items-center rounded-[5px] border border-error font-semibold text-error">missing</div>
      )}
      <div className="grid auto-rows-min grid-cols-[minmax(0,1fr)] gap-1.5 text-[12.3px]">
        <b className="truncate">{writtenName(row.written)}</b>
        <span className="truncate font-mono text-[11.5px]" title={row.written}>
          {row.written}
        </span>
        {row.relative && <span className="truncate font-mono text-[11.5px] text-[var(--soft)]">relative: {row.relative}</span>}
        {file?.info && (
          <span className="text-[var(--soft)]">
            {file.path}: {file.info.width} × {file.info.height}, {file.info.bitDepth} bit, {plural(file.info.components, 'component')}, {bytes(file.size)};{' '}
            {row.how}
          </span>
        )}
        {file?.fault && <span className="text-error">{file.fault.message}</span>}
        {candidates.length > 0 && <span className="text-[var(--soft)]">Candidates</span>}
        {candidates.slice(0, 4).map((candidate) => (
          <CandidateRow key={candidate.path} candidate={candidate} imageKey={row.key} />
        ))}
        {row.status === 'missing' && candidates.length === 0 && (
          <span className="text-[var(--soft)]">Nothing in the parcel has this name. Upload the image, or give the slot another one on the slot board.</span>
        )}
        {touched && (
          <button type="button" className="act w-fit" disabled={bench.busy} onClick={() => bench.apply([unlinkEdit([row.key])])}>
            Unlink
          </button>
        )}
      </div>
    </section>
  );
}
