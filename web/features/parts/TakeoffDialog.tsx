'use client';

import type { TakeoffRow } from '@kinkajou/core/shape/takeoff';
import { useQuery } from '@tanstack/react-query';
import { Download } from 'lucide-react';
import { type ReactNode, useMemo, useState } from 'react';
import { api } from '@/ui/api';
import { Bars } from '@/ui/Bars';
import { buttonClass } from '@/ui/Button';
import { count, plural } from '@/ui/format';
import { Modal } from '@/ui/Modal';
import { Segments } from '@/ui/Segments';
import { useBench } from '../bench/useBench.ts';
import { showOpen } from './partFocus.ts';
import { type MaterialSum, measured, sumsOf } from './takeoffRows.ts';
import { viewParts } from './viewParts.ts';

type By = 'materials' | 'parts';

/** Areas and volumes of the asset as it stands: by material with bars, or part by part; as CSV too. */
export function TakeoffDialog({ close }: { close: () => void }) {
  const { view, busy } = useBench();
  const [by, setBy] = useState<By>('materials');
  const { data, error, isPending } = useQuery({
    queryKey: ['takeoff', view.id, view.cursor, busy],
    queryFn: () => api<{ rows: TakeoffRow[] }>(`/api/assets/${view.id}/takeoff`),
    enabled: !busy,
  });
  const parts = useMemo(() => new Map(viewParts(view).map(({ name, key }) => [name, key])), [view]);
  const rows = data?.rows ?? [];
  const show = (part: string) => {
    const key = parts.get(part);
    if (key === undefined) return;
    showOpen(key);
    close();
  };
  const sums = sumsOf(rows);
  return (
    <Modal title="Areas and volumes" close={close} wide>
      <div className="grid gap-3 p-4 text-[12.5px]">
        <div className="flex items-center gap-3">
          <Segments
            label="List by"
            value={by}
            options={[
              ['materials', 'by material'],
              ['parts', 'by part'],
            ]}
            pick={setBy}
          />
          <span className="text-[var(--soft)]">
            {isPending ? 'measuring ...' : `${plural(rows.length, 'row')}, in metres`}
          </span>
          <span className="flex-1" />
          <a className={buttonClass()} href={`/api/assets/${view.id}/takeoff?as=csv`}>
            <Download size={12} /> CSV
          </a>
        </div>
        {error && <p className="text-error">{error.message}</p>}
        {data && rows.length === 0 && (
          <p className="text-[var(--soft)]">There is nothing to measure: no part is left that has faces.</p>
        )}
        {rows.length > 0 && by === 'materials' && <SumBars sums={sums} />}
        {rows.length > 0 &&
          (by === 'materials' ? <SumTable sums={sums} show={show} /> : <PartTable rows={rows} show={show} />)}
      </div>
    </Modal>
  );
}

const SHOWN_BARS = 14;

function SumBars({ sums }: { sums: readonly MaterialSum[] }) {
  const shown = sums.slice(0, SHOWN_BARS);
  return (
    <Bars
      label={`Bars of area by material, ${shown[0]?.material || 'none'} the largest`}
      names={shown.map(({ material }) => material || 'none')}
      series={[{ name: 'area', colour: '--color-secondary', values: shown.map(({ area }) => area) }]}
      words={(value) => `${measured(value)} m²`}
      ends
    />
  );
}

const HEAD = 'sticky top-0 bg-base-300 px-2 py-1 text-left font-semibold';
const CELL = 'border-t border-[var(--line-soft)] px-2 py-1';

/** Rows under heads that stay in sight. */
function Table({ heads, children }: { heads: readonly string[]; children: ReactNode }) {
  return (
    <table className="w-full">
      <thead>
        <tr>
          {heads.map((head) => (
            <th key={head} className={HEAD}>
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>{children}</tbody>
    </table>
  );
}

/** What does not close; a click shows where. */
function OpenPart({ part, label, show }: { part: string; label: string; show: (part: string) => void }) {
  return (
    <button
      type="button"
      className="link link-hover cursor-pointer text-left"
      title={`Show where ${part} does not close`}
      onClick={() => show(part)}
    >
      {label}
    </button>
  );
}

function SumTable({ sums, show }: { sums: readonly MaterialSum[]; show: (part: string) => void }) {
  return (
    <div className="max-h-[38vh] overflow-auto">
      <Table heads={['Material', 'Parts', 'Faces', 'Area, m²', 'Volume, m³', 'Do not close']}>
        {sums.map(({ material, parts, faces, area, volume, open }) => (
          <tr key={material}>
            <td className={CELL}>{material || <i>none</i>}</td>
            <td className={`${CELL} font-mono`}>{count(parts)}</td>
            <td className={`${CELL} font-mono`}>{count(faces)}</td>
            <td className={`${CELL} font-mono`}>{measured(area)}</td>
            <td className={`${CELL} font-mono`}>{open.length === parts ? '' : measured(volume)}</td>
            <td className={CELL} title={open.join('\n')}>
              {open.length > 0 && (
                <OpenPart
                  part={open[0]}
                  label={open.length === 1 ? open[0] : `${open[0]} and ${count(open.length - 1)} more`}
                  show={show}
                />
              )}
            </td>
          </tr>
        ))}
      </Table>
    </div>
  );
}

const SHOWN_PARTS = 1000;

function PartTable({ rows, show }: { rows: readonly TakeoffRow[]; show: (part: string) => void }) {
  return (
    <div className="max-h-[56vh] overflow-auto">
      <Table heads={['Part', 'Material', 'Faces', 'Area, m²', 'Volume, m³']}>
        {rows.slice(0, SHOWN_PARTS).map(({ part, material, faces, area, volume }, i) => (
          <tr key={i}>
            <td className={CELL}>{part}</td>
            <td className={CELL}>{material}</td>
            <td className={`${CELL} font-mono`}>{count(faces)}</td>
            <td className={`${CELL} font-mono`}>{measured(area)}</td>
            <td className={`${CELL} font-mono`}>
              {volume === null ? <OpenPart part={part} label="open" show={show} /> : measured(volume)}
            </td>
          </tr>
        ))}
      </Table>
      {rows.length > SHOWN_PARTS && (
        <p className="p-2 text-[var(--soft)]">{count(rows.length - SHOWN_PARTS)} more are in the CSV.</p>
      )}
    </div>
  );
}
