'use client';

import { DIALECT_NAMES, DIALECTS, type DialectName } from '@kinkajou/core/colour/dialects';
import { COLOUR_CHANNELS } from '@kinkajou/core/scene/material';
import { useMemo, useState } from 'react';
import { Bar } from '@/ui/Bar';
import { Chip, ChipSelect } from '@/ui/Chip';
import { useChoices } from '@/ui/choices';
import { useBench } from '../bench/useBench.ts';
import { ColourDetails } from './ColourDetails.tsx';
import { RepairBar } from './RepairBar.tsx';
import { TagTable } from './TagTable.tsx';
import { type TagFilter, type TagRow, tagRows } from './tagRows.ts';

const FILTERS: readonly TagFilter[] = ['all', 'doubtful', 'colour', 'data', 'float'];

/**
 * In which colour space each use of an image is read; tags are mended one by one, by channel, by keyword and
 * in bulk.
 */
export function ColourStep() {
  const { view } = useBench();
  const [filter, setFilter] = useState<TagFilter>('all');
  const { dialect, set } = useChoices();
  const all = useMemo(() => tagRows(view), [view]);
  const rows = useMemo(() => all.filter((row) => passes(row, filter)), [all, filter]);
  return (
    <div
      className="grid h-full"
      style={{ gridTemplateRows: '40px auto minmax(0, 1fr) auto', gridTemplateColumns: 'minmax(0, 1fr)' }}
    >
      <Bar className="overflow-x-auto">
        <h2 className="text-[14px] font-bold">Colour</h2>
        {FILTERS.map((key) => (
          <Chip key={key} aria-pressed={filter === key} onClick={() => setFilter(key)}>
            {key} {all.filter((row) => passes(row, key)).length}
          </Chip>
        ))}
        <span className="flex-1" />
        <label className="flex items-center gap-1.5 text-[12px] whitespace-nowrap">
          <span className="text-[var(--soft)]">words of</span>
          <ChipSelect
            aria-label="Tag dialect"
            value={dialect}
            onChange={(event) => {
              set({ dialect: event.target.value as DialectName });
              event.currentTarget.blur();
            }}
          >
            {DIALECT_NAMES.map((name) => (
              <option key={name} value={name}>
                {DIALECTS[name].title}
              </option>
            ))}
          </ChipSelect>
        </label>
      </Bar>
      <RepairBar />
      <TagTable rows={rows} total={all.length} />
      <ColourDetails rows={all} />
    </div>
  );
}

function passes(row: TagRow, filter: TagFilter): boolean {
  switch (filter) {
    case 'doubtful':
      return row.mark !== 'fine';
    case 'float':
      return row.file?.info?.floating ?? false;
    case 'colour':
      return COLOUR_CHANNELS.has(row.channel);
    case 'data':
      return !COLOUR_CHANNELS.has(row.channel);
    default:
      return true;
  }
}
