'use client';

import { useQuery } from '@tanstack/react-query';
import { Download } from 'lucide-react';
import type { listAllHandoffs } from '@/server/services/handoffs';
import { AppStrip } from '@/ui/AppStrip';
import { api } from '@/ui/api';
import { Bar } from '@/ui/Bar';
import { buttonClass } from '@/ui/Button';
import { bytes, plural, when } from '@/ui/format';
import { Link } from '@/ui/Link';
import { Mark, type MarkKind } from '@/ui/Mark';

type Row = Omit<Awaited<ReturnType<typeof listAllHandoffs>>[number], 'createdAt'> & { createdAt: string };

/** Every package that was made, of every asset. */
export function HandoffsView() {
  const query = useQuery({
    queryKey: ['all-handoffs'],
    queryFn: async () => (await api<{ handoffs: Row[] }>('/api/handoffs')).handoffs,
  });
  const rows = query.data ?? [];
  return (
    <div className="flex h-full flex-col">
      <AppStrip />
      <Bar>
        <h1 className="text-[14px] font-bold">Handoffs</h1>
        <span className="text-[var(--soft)]">{query.data && plural(rows.length, 'package')}</span>
      </Bar>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it is scrolled by keys */}
      <main className="min-h-0 flex-1 overflow-auto" tabIndex={0}>
        {query.isError && <p className="p-8 text-center text-error">{query.error.message}</p>}
        {query.data && rows.length === 0 && (
          <p className="p-16 text-center text-[var(--soft)]">
            Nothing was handed off yet. Open an asset and go to its last step.
          </p>
        )}
        {rows.length > 0 && (
          <table className="table table-xs table-pin-rows">
            <thead>
              <tr>
                <th />
                <th>Package</th>
                <th>Asset</th>
                <th>Destination</th>
                <th>Verdict</th>
                <th>Size</th>
                <th>Made</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <tr key={row.id}>
                  <td>
                    <Mark kind={markOf(row)} />
                  </td>
                  <td className="font-semibold">{row.fileName}</td>
                  <td>
                    <Link
                      className="underline decoration-[var(--line)] underline-offset-2 hover:decoration-accent"
                      href={`/assets/${row.assetId}/handoff`}
                    >
                      {row.assetName}
                    </Link>
                  </td>
                  <td>
                    {row.destination}, {row.variant}
                  </td>
                  <td>{row.verdict ?? row.state}</td>
                  <td className="whitespace-nowrap">{row.zipSize ? bytes(row.zipSize) : '-'}</td>
                  <td className="whitespace-nowrap">{when(row.createdAt)}</td>
                  <td>
                    {row.zip && row.state === 'done' && (
                      <a
                        className={`${buttonClass()} w-fit`}
                        href={`/api/handoffs/${row.id}/package`}
                        download
                        aria-label={`Download ${row.fileName}`}
                      >
                        <Download size={13} /> Download
                      </a>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </main>
    </div>
  );
}

function markOf(row: Row): MarkKind {
  if (row.state === 'failed') return 'broken';
  if (row.verdict === 'clean') return 'fine';
  return row.verdict === 'with remarks' ? 'doubtful' : 'empty';
}
