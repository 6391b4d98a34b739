'use client';

import type { InsightRow } from '@/server/services/insights';
import { Bars } from '@/ui/Bars';

/** Bars that are drawn; what comes after them is in the CSV. */
const MOST = 12;

/** What a part of a bar counts. */
export type Stretch = 'mended' | 'left';

interface StackedBarsProps {
  rows: readonly InsightRow[];
  label: string;
  /** Opens what stands behind a stretch of a bar. */
  open?(row: InsightRow, stretch: Stretch): void;
}

/** What was mended and what is left, a bar a row. */
export function StackedBars({ rows, label, open }: StackedBarsProps) {
  const shown = rows.slice(0, MOST);
  return (
    <Bars
      label={`Bars: ${label}`}
      names={shown.map(({ title }) => title || 'not said')}
      series={[
        { name: 'mended', colour: '--color-success', values: shown.map(({ found, left }) => found - left) },
        { name: 'left', colour: '--color-accent', values: shown.map(({ left }) => left) },
      ]}
      words={(value, stretch) => `${value} ${stretch}`}
      open={(index, stretch) => open?.(shown[index], stretch as Stretch)}
    />
  );
}
