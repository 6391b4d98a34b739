'use client';

import { keepPreviousData, useQueries } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Download, PackageOpen, Search, Trash2, Undo2 } from 'lucide-react';
import { type ReactNode, useDeferredValue, useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { ParcelList } from '@/features/intake/ParcelList';
import { TourOffer } from '@/features/tour/TourOffer';
import type { ShelfQuery, ShelfSort, Stack } from '@/server/services/shelf';
import { AppStrip } from '@/ui/AppStrip';
import { Bar } from '@/ui/Bar';
import { Button, buttonClass } from '@/ui/Button';
import { Chip } from '@/ui/Chip';
import { useChoices } from '@/ui/choices';
import { useCommands } from '@/ui/commands/useCommands';
import { FIELD } from '@/ui/Field';
import { count, extent, plural, when } from '@/ui/format';
import { Link } from '@/ui/Link';
import { Picture, Tallies } from './AssetCard.tsx';
import { RemoveDialog, useBringBack } from './RemoveDialog.tsx';
import { SelectionBar } from './SelectionBar.tsx';
import { ShelfFilters } from './ShelfFilters.tsx';
import { filterBy, select, selectAllFound, toggle, useSelected } from './selected.ts';
import { type ShelfEntry, shelfQuery } from './shelf.ts';

const SORTS: Record<ShelfSort, string> = {
  changed: 'last change',
  name: 'name',
  findings: 'findings',
  polygons: 'polygons',
};

const CARD_HEIGHT = 128;
/** Assets that are asked for at a time. */
const PAGE = 60;

/** All assets, searchable and sorted; rows are drawn only where they are seen. */
export function ShelfView() {
  const { search = '' } = useSelected((selected) => selected.filter);
  const filter = useSelected((selected) => selected.filter);
  const setSearch = (words: string) => filterBy({ search: words });
  const [found, setFound] = useState<Found>({ total: undefined, whole: undefined, error: null });
  const sort = useChoices((choices) => choices.shelfSort);
  const set = useChoices((choices) => choices.set);
  const searchField = useRef<HTMLInputElement>(null);
  const [removed, setRemoved] = useState(false);
  const asked = useDeferredValue(filter);
  useCommands({
    search: () => searchField.current?.focus(),
    selectFound: () =>
      removed ? false : void selectAllFound().catch((error: Error) => toast.error(error.message)),
    selectNone: () => select([]),
  });
  return (
    <div className="flex h-full flex-col">
      <AppStrip />
      <Bar className="flex-wrap gap-x-2 bg-base-200 whitespace-nowrap max-[860px]:gap-y-1 max-[860px]:py-1.5">
        <h1 className="text-[14px] font-bold">Shelf</h1>
        <span className="text-[var(--soft)]">
          {found.whole === undefined ? '' : plural(found.whole, removed ? 'removed asset' : 'asset')}
        </span>
        <Chip
          aria-pressed={removed}
          onClick={() => setRemoved(!removed)}
          title="Assets that were removed and can be brought back"
        >
          <Trash2 size={12} /> removed
        </Chip>
        <span className="flex-1" />
        <label className={`${FIELD} flex items-center gap-1.5`}>
          <Search size={13} className="text-[var(--soft)]" />
          <input
            ref={searchField}
            value={search}
            onChange={(event) => setSearch(event.target.value)}
            placeholder="Search name, parcel or format"
            className="w-56 bg-transparent outline-none"
            aria-label="Search the shelf"
          />
          <kbd className="kbd kbd-xs font-mono">/</kbd>
        </label>
        <span className="text-[var(--soft)]">by</span>
        <span className="flex gap-1.5">
          {(Object.keys(SORTS) as ShelfSort[]).map((key) => (
            <Chip key={key} aria-pressed={sort === key} onClick={() => set({ shelfSort: key })}>
              {SORTS[key]}
            </Chip>
          ))}
        </span>
        <Link href="/intake" className={buttonClass(true)}>
          <PackageOpen size={14} /> New parcel
        </Link>
      </Bar>
      {!removed && <ShelfFilters />}
      <main className="flex min-h-0 flex-1 flex-col">
        {/* However many parcels could not be read, most of the room is the shelf's. */}
        <div className="max-h-[45%] shrink-0 overflow-auto px-4 pt-3 empty:hidden">
          {found.total !== undefined && found.total > 0 && <TourOffer />}
          <ParcelList />
        </div>
        {found.error && <p className="p-8 text-center text-error">{found.error.message}</p>}
        {found.total === 0 &&
          (removed ? (
            <NothingRemoved />
          ) : (
            <EmptyShelf
              searching={Object.keys(asked).length > 0}
              clear={() => useSelected.setState({ filter: {} })}
            />
          ))}
        <Grid
          query={
            removed
              ? { ...(asked.search ? { search: asked.search } : {}), sort, removed }
              : { ...asked, sort, ...(Object.keys(asked).length === 0 ? { fold: true } : {}) }
          }
          tell={setFound}
        />
      </main>
      {!removed && <SelectionBar total={found.whole} />}
    </div>
  );
}

/**
 * How many entries the shelf shows, and how many assets they stand for; undefined while that is on its way.
 */
interface Found {
  total: number | undefined;
  whole: number | undefined;
  error: Error | null;
}

/** Entries of the shelf that were asked for, by their place; pages come as they are scrolled to. */
function useEntries(
  query: ShelfQuery,
  first: number,
  last: number,
): Found & { at: (index: number) => ShelfEntry | undefined } {
  const from = Math.floor(first / PAGE);
  const pages = Array.from({ length: Math.floor(last / PAGE) - from + 1 }, (_, i) => from + i);
  const required = from === 0 ? pages : [0, ...pages];
  const results = useQueries({
    queries: required.map((page) => ({
      ...shelfQuery({ ...query, offset: page * PAGE, limit: PAGE }),
      placeholderData: keepPreviousData,
    })),
  });
  const loaded = new Map(required.map((page, i) => [page, results[i].data]));
  return {
    total: results.find(({ data }) => data)?.data?.total,
    whole: results.find(({ data }) => data)?.data?.whole,
    at: (index) => loaded.get(Math.floor(index / PAGE))?.assets[index % PAGE],
    error: results.find(({ error }) => error)?.error ?? null,
  };
}

function Grid({ query, tell }: { query: ShelfQuery; tell: (found: Found) => void }) {
  const scroller = useRef<HTMLDivElement>(null);
  const [columns, setColumns] = useState(3);
  const [seen, setSeen] = useState({ first: 0, last: 0 });
  const { total, whole, at: entryAt, error } = useEntries(query, seen.first, seen.last);
  useEffect(() => tell({ total, whole, error }), [tell, total, whole, error]);
  useEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const observer = new ResizeObserver(() =>
      setColumns(Math.max(1, Math.floor((element.clientWidth - 32) / 400))),
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  const rows = useVirtualizer({
    count: Math.ceil((total ?? 0) / columns),
    getScrollElement: () => scroller.current,
    estimateSize: () => CARD_HEIGHT + 10,
    overscan: 4,
  });
  const items = rows.getVirtualItems();
  const first = (items[0]?.index ?? 0) * columns;
  const last = Math.max(first, Math.min((total ?? 1) - 1, ((items.at(-1)?.index ?? 0) + 1) * columns - 1));
  useEffect(() => setSeen({ first, last }), [first, last]);
  return (
    <div ref={scroller} className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <ul style={{ height: rows.getTotalSize(), position: 'relative' }} aria-label="Assets">
        {items.map((row) => (
          <li key={row.key} className="absolute inset-x-0" style={{ top: row.start }}>
            <ul
              className="grid gap-2.5"
              style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }}
            >
              {Array.from({ length: Math.min(columns, (total ?? 0) - row.index * columns) }, (_, i) => {
                const entry = entryAt(row.index * columns + i);
                if (!entry) return <Placeholder key={`${row.index} ${i}`} />;
                return entry.stack ? (
                  <StackCard key={entry.id} entry={entry} stack={entry.stack} />
                ) : (
                  <Card key={entry.id} entry={entry} removed={query.removed} />
                );
              })}
            </ul>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** Where an asset will be once its page is here. */
function Placeholder() {
  return (
    <li
      className="rounded-md border border-[var(--line)] bg-base-100 opacity-50"
      style={{ height: CARD_HEIGHT }}
      aria-hidden
    />
  );
}

function Card({ entry, removed = false }: { entry: ShelfEntry; removed?: boolean }) {
  const [asking, setAsking] = useState(false);
  const selected = useSelected(({ ids }) => ids.has(entry.id));
  const some = useSelected(({ ids }) => ids.size > 0);
  const bringBack = useBringBack(entry);
  const { error, warning, note } = entry.severities;
  const step = error + warning + note === 0 ? 'handoff' : 'links';
  return (
    <li
      className={`group relative flex overflow-hidden rounded-md border bg-base-100 hover:border-accent ${selected ? 'border-accent ring-2 ring-accent' : 'border-[var(--line)]'}`}
      style={{ height: CARD_HEIGHT }}
      data-asset={entry.name}
    >
      <CardBody href={removed ? null : `/assets/${entry.id}/${step}`} toggle={() => toggle(entry.id)}>
        <Picture entry={entry} />
        <span className="flex min-w-0 flex-1 flex-col gap-0.5 p-2.5">
          <b className="truncate pr-6 text-[14px]">{entry.name}</b>
          <span className="truncate text-[11.5px] text-[var(--soft)]">
            {entry.parcelName} / <span className="font-mono">{entry.model}</span>
          </span>
          <span className="narrow truncate text-[11.5px]">
            {entry.format} {entry.variant}, {count(entry.counts.polygons)} polygons,{' '}
            {plural(entry.counts.materials, 'material')}, {plural(entry.counts.maps, 'map')}
          </span>
          <span className="font-mono text-[11px] text-[var(--soft)]">{extent(entry.bounds)}</span>
          <span className="flex-1" />
          <Tallies severities={entry.severities} />
          <span className="narrow truncate text-[11px] text-[var(--soft)]" title={entry.lastEdit}>
            {when(entry.updatedAt)}
            {entry.lastEdit && `: ${entry.lastEdit}`}
          </span>
        </span>
      </CardBody>
      {!removed && (
        <input
          type="checkbox"
          className={`checkbox checkbox-xs absolute left-1.5 top-1.5 bg-base-100 focus:opacity-100 group-hover:opacity-100 ${some ? '' : 'opacity-0'}`}
          checked={selected}
          aria-label={`Select ${entry.name}`}
          onChange={() => toggle(entry.id)}
        />
      )}
      {removed ? (
        <Button
          className="absolute right-1.5 top-1.5"
          onClick={() => void bringBack()}
          aria-label={`Bring ${entry.name} back`}
        >
          <Undo2 size={12} /> Bring back
        </Button>
      ) : (
        <span className="absolute right-1.5 top-1.5 flex opacity-0 focus-within:opacity-100 group-hover:opacity-100">
          <a
            className="btn btn-ghost btn-xs btn-square"
            href={`/api/assets/${entry.id}/export`}
            aria-label={`Export ${entry.name}`}
            title="Export: its files and its edit log as one zip, which can be dropped on another shelf"
          >
            <Download size={13} />
          </a>
          <button
            type="button"
            className="btn btn-ghost btn-xs btn-square"
            aria-label={`Remove ${entry.name}`}
            title="Remove from the shelf"
            onClick={() => setAsking(true)}
          >
            <Trash2 size={13} />
          </button>
        </span>
      )}
      {asking && <RemoveDialog entry={entry} close={() => setAsking(false)} />}
    </li>
  );
}

/** A parcel of many assets, which a click lays out; its box selects all of them. */
function StackCard({ entry, stack: { size, severities } }: { entry: ShelfEntry; stack: Stack }) {
  const { parcelId, parcelName } = entry;
  const selectAll = async () => {
    filterBy({ parcel: parcelId });
    await selectAllFound();
  };
  return (
    <li className="group relative" style={{ height: CARD_HEIGHT }} data-stack={parcelName}>
      <span
        aria-hidden
        className="absolute inset-x-2 -top-1 h-4 rounded-md border border-[var(--line)] bg-base-200"
      />
      <span
        aria-hidden
        className="absolute inset-x-1 -top-0.5 h-4 rounded-md border border-[var(--line)] bg-base-200"
      />
      <button
        type="button"
        className="relative flex h-full w-full cursor-pointer overflow-hidden rounded-md border border-[var(--line)] bg-base-100 text-left hover:border-accent"
        onClick={() => filterBy({ parcel: parcelId })}
      >
        <Picture entry={entry} />
        <span className="flex min-w-0 flex-1 flex-col gap-0.5 p-2.5">
          <b className="truncate text-[14px]" title={parcelName}>
            {parcelName}
          </b>
          <span className="text-[12px]">{plural(size, 'asset')} of one parcel</span>
          <span className="truncate text-[11.5px] text-[var(--soft)]">{entry.name} was changed last</span>
          <span className="flex-1" />
          <Tallies severities={severities} />
          <span className="narrow truncate text-[11px] text-[var(--soft)]">{when(entry.updatedAt)}</span>
        </span>
      </button>
      <button
        type="button"
        className={`${buttonClass()} absolute right-1.5 top-1.5 bg-base-100 opacity-0 focus:opacity-100 group-hover:opacity-100`}
        onClick={() => selectAll().catch((error: Error) => toast.error(error.message))}
      >
        select all
      </button>
    </li>
  );
}

/** A removed asset cannot be opened before it is back; a click with Ctrl selects. */
function CardBody({
  href,
  toggle: select,
  children,
}: {
  href: string | null;
  toggle(): void;
  children: ReactNode;
}) {
  const className = 'flex min-w-0 flex-1';
  return href === null ? (
    <span className={`${className} opacity-60`}>{children}</span>
  ) : (
    <Link
      href={href}
      className={className}
      onClick={(event) => {
        if (!event.ctrlKey && !event.metaKey) return;
        event.preventDefault();
        select();
      }}
    >
      {children}
    </Link>
  );
}

function NothingRemoved() {
  return (
    <p className="py-20 text-center text-[var(--soft)]">
      Nothing was removed. What is removed stays here until the next sweep.
    </p>
  );
}

function EmptyShelf({ searching, clear }: { searching: boolean; clear: () => void }) {
  return (
    <div className="grid justify-items-center gap-3 py-20 text-center">
      <PackageOpen size={36} className="text-accent" />
      <p className="text-[15px] font-semibold">
        {searching ? 'Nothing on the shelf fits' : 'The shelf is empty'}
      </p>
      <p className="text-[var(--soft)]">
        {searching ? 'Try fewer words.' : 'Drop a zip, a folder or loose files anywhere on this page.'}
      </p>
      {searching ? (
        <Button onClick={clear}>Show everything</Button>
      ) : (
        <Link href="/intake" className={buttonClass(true)}>
          Go to intake
        </Link>
      )}
    </div>
  );
}
