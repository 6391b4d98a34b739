'use client';

import { useQuery } from '@tanstack/react-query';
import { Download } from 'lucide-react';
import { useRouter } from 'next/navigation';
import type { ReactNode } from 'react';
import type { InsightRow, Insights } from '@/server/services/insights';
import type { ShelfFilter } from '@/server/wire/shelf';
import { AppStrip } from '@/ui/AppStrip';
import { api } from '@/ui/api';
import { Bar } from '@/ui/Bar';
import { buttonClass } from '@/ui/Button';
import { bytes, count, plural } from '@/ui/format';
import { useSelected } from '../shelf/selected.ts';
import { lasted } from './lasted.ts';
import { StackedBars, type Stretch } from './StackedBars.tsx';

/**
 * What was wrong, mended by whom, and left, over all that is on the shelf. Bars open the assets behind them.
 */
export function InsightsView() {
  const { data, error } = useQuery({
    queryKey: ['insights'],
    queryFn: () => api<Insights>('/api/insights'),
    staleTime: 0,
  });
  const router = useRouter();
  const show = (filter: ShelfFilter) => {
    useSelected.setState({ filter });
    router.push('/');
  };
  const byCode = (row: InsightRow, stretch: Stretch) =>
    show(stretch === 'left' ? { code: row.value } : { mended: row.value });
  return (
    <div className="flex h-full flex-col">
      <AppStrip />
      <Bar>
        <h1 className="text-[14px] font-bold">Insights</h1>
        <span className="text-[var(--soft)]">{data && plural(data.assets, 'asset')}</span>
        <span className="flex-1" />
        <a className={buttonClass()} href="/api/insights?as=csv" download>
          <Download size={13} /> CSV
        </a>
      </Bar>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it is scrolled by keys */}
      <main className="min-h-0 flex-1 overflow-auto p-4" tabIndex={0}>
        {error && <p className="p-8 text-center text-error">{error.message}</p>}
        {data && data.assets === 0 && (
          <p className="p-16 text-center text-[var(--soft)]">
            There is nothing on the shelf yet. Bring a parcel in first.
          </p>
        )}
        {data && data.assets > 0 && (
          <>
            <Numbers data={data} />
            <div
              className="grid items-start gap-4"
              style={{ gridTemplateColumns: 'repeat(auto-fit, minmax(420px, 1fr))' }}
            >
              <Panel title="By kind" rows={data.byCode} open={byCode} what="assets" />
              <ByWhom rows={data.byWhom} />
              <Panel
                title="By source program"
                rows={data.byGenerator}
                open={({ value }) => show({ generator: value })}
                what="findings"
              />
              <Panel
                title="By parcel, the latest first"
                rows={data.byParcel}
                open={({ value }) => show({ parcel: value })}
                what="findings"
              />
              <Panel title="By week of arrival" rows={data.byWeek} what="findings" />
            </div>
          </>
        )}
      </main>
    </div>
  );
}

function Numbers({ data: { byCode, handedOff, bytes: size } }: { data: Insights }) {
  const found = byCode.reduce((sum, row) => sum + row.found, 0);
  const left = byCode.reduce((sum, row) => sum + row.left, 0);
  const facts: [string, string][] = [
    ['found', count(found)],
    ['mended', count(found - left)],
    ['left', count(left)],
    ['handed off', plural(handedOff.assets, 'asset')],
    [
      'from arrival to the first package, in the middle',
      handedOff.seconds === null ? 'none yet' : lasted(handedOff.seconds),
    ],
    ['came in', bytes(size.came)],
    ['went out', bytes(size.went)],
  ];
  return (
    <dl className="mb-4 flex flex-wrap gap-x-8 gap-y-2">
      {facts.map(([term, value]) => (
        <div key={term} className="flex flex-col-reverse">
          <dt className="text-[11.5px] text-[var(--soft)]">{term}</dt>
          <dd className="text-[17px] font-bold">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

interface PanelProps {
  title: string;
  rows: readonly InsightRow[];
  /** What is counted. */
  what: string;
  open?(row: InsightRow, stretch: Stretch): void;
}

function Panel({ title, rows, what, open }: PanelProps) {
  return (
    <Card title={title} note={`${what}: green mended, honey left`}>
      {rows.length === 0 ? (
        <p className="text-[12px] text-[var(--soft)]">Nothing was found.</p>
      ) : (
        <StackedBars rows={rows} label={title} open={open} />
      )}
      {open && rows.length > 0 && (
        <details className="text-[12px]">
          <summary className="cursor-pointer text-[var(--soft)]">as a list</summary>
          <ul className="mt-1 grid gap-0.5">
            {rows.map((row) => (
              <li key={row.value} className="flex gap-2">
                <button
                  type="button"
                  className="min-w-0 flex-1 cursor-pointer truncate text-left hover:underline"
                  onClick={() => open(row, 'left')}
                >
                  {row.title || 'not said'}
                </button>
                <span className="font-mono text-[11.3px] text-[var(--soft)]">
                  {count(row.found - row.left)} mended, {count(row.left)} left
                </span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </Card>
  );
}

function ByWhom({ rows }: { rows: Insights['byWhom'] }) {
  const most = Math.max(1, ...rows.map(({ edits }) => edits));
  return (
    <Card title="Edits, by who made them" note="hands, mends and rules">
      {rows.length === 0 && <p className="text-[12px] text-[var(--soft)]">Nothing was changed yet.</p>}
      <ul className="grid gap-1 text-[12px]">
        {rows.slice(0, 14).map(({ title, rulebook, edits, assets }) => (
          <li
            key={`${title} ${rulebook}`}
            className="grid items-center gap-2"
            style={{ gridTemplateColumns: 'minmax(0, 170px) minmax(0, 1fr) 120px' }}
          >
            <span className="truncate" title={rulebook ? `${title}, of ${rulebook}` : title}>
              {title}
            </span>
            <span
              className="h-3 rounded-[3px] bg-secondary"
              style={{ width: `${Math.max(1, (edits / most) * 100)}%` }}
            />
            <span className="text-right font-mono text-[11.3px] text-[var(--soft)]">
              {count(edits)} in {count(assets)}
            </span>
          </li>
        ))}
      </ul>
    </Card>
  );
}

function Card({ title, note, children }: { title: string; note: string; children: ReactNode }) {
  return (
    <section className="rounded-md border border-[var(--line)] bg-base-100 p-3" aria-label={title}>
      <header className="mb-1 flex items-baseline gap-2">
        <h2 className="text-[13px] font-bold">{title}</h2>
        <span className="text-[11.5px] text-[var(--soft)]">{note}</span>
      </header>
      {children}
    </section>
  );
}
