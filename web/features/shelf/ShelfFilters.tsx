'use client';

import { useQuery } from '@tanstack/react-query';
import { X } from 'lucide-react';
import type { ShelfFacets, ShelfFilter, ShelfState } from '@/server/wire/shelf';
import { api } from '@/ui/api';
import { Chip, ChipSelect } from '@/ui/Chip';
import { count } from '@/ui/format';
import { KeptSelections } from './KeptSelections.tsx';
import { filterBy, useSelected } from './selected.ts';

const STATES: Record<ShelfState, string> = {
  broken: 'something broken',
  doubtful: 'doubts alone',
  clean: 'nothing open',
};
const FORMATS: Record<string, string> = { fbx: 'FBX', obj: 'OBJ', usd: 'USD', gltf: 'glTF' };
const SIZES: [string, string, Pick<ShelfFilter, 'longer' | 'shorter'>][] = [
  ['small', 'under 10 cm', { shorter: 0.1 }],
  ['hand', '10 cm to 1 m', { longer: 0.1, shorter: 1 }],
  ['room', '1 to 10 m', { longer: 1, shorter: 10 }],
  ['large', 'over 10 m', { longer: 10 }],
];

/** What of the shelf is shown, and selections that were kept. */
export function ShelfFilters() {
  const filter = useSelected((selected) => selected.filter);
  const { data } = useQuery({
    queryKey: ['shelf', 'facets'],
    queryFn: () => api<ShelfFacets>('/api/shelf/facets'),
  });
  const size = SIZES.find(
    ([, , { longer, shorter }]) => filter.longer === longer && filter.shorter === shorter,
  );
  const any = Object.keys(filter).some((name) => name !== 'search');
  return (
    <div
      className="flex flex-wrap items-center gap-1.5 border-b border-[var(--line)] bg-base-200 px-4 py-1.5"
      role="group"
      aria-label="Filters"
    >
      <Choice
        label="State"
        value={filter.state ?? ''}
        options={Object.entries(STATES)}
        pick={(state) => filterBy({ state: (state || undefined) as ShelfState | undefined })}
      />
      <Choice
        label="Open"
        value={filter.code ?? ''}
        options={data?.codes.map(({ value, title, count: assets }) => [value, `${title} (${count(assets)})`])}
        pick={(code) => filterBy({ code: code || undefined })}
      />
      <Choice
        label="Format"
        value={filter.format ?? ''}
        options={data?.formats.map(({ value, count: assets }) => [
          value,
          `${FORMATS[value] ?? value} (${count(assets)})`,
        ])}
        pick={(format) => filterBy({ format: (format || undefined) as ShelfFilter['format'] })}
      />
      <Choice
        label="Written by"
        value={filter.generator === undefined ? '' : `=${filter.generator}`}
        options={data?.generators.map(({ value, count: assets }) => [
          `=${value}`,
          `${value || 'not said'} (${count(assets)})`,
        ])}
        pick={(generator) => filterBy({ generator: generator === '' ? undefined : generator.slice(1) })}
      />
      <Choice
        label="Parcel"
        value={filter.parcel ?? ''}
        options={data?.parcels.map(({ value, title, count: assets }) => [
          value,
          `${title} (${count(assets)})`,
        ])}
        pick={(parcel) => filterBy({ parcel: parcel || undefined })}
      />
      <Choice
        label="Longest side"
        value={size?.[0] ?? ''}
        options={SIZES.map(([key, title]) => [key, title])}
        pick={(key) =>
          filterBy({ longer: undefined, shorter: undefined, ...SIZES.find(([own]) => own === key)?.[2] })
        }
      />
      <Choice
        label="Package"
        value={filter.handed === undefined ? '' : String(filter.handed)}
        options={[
          ['true', 'made'],
          ['false', 'not made yet'],
        ]}
        pick={(handed) => filterBy({ handed: handed === '' ? undefined : handed === 'true' })}
      />
      {filter.mended !== undefined && (
        <Chip aria-pressed onClick={() => filterBy({ mended: undefined })}>
          mended: {filter.mended} <X size={12} />
        </Chip>
      )}
      {any && (
        <Chip
          onClick={() => useSelected.setState({ filter: filter.search ? { search: filter.search } : {} })}
        >
          <X size={12} /> all
        </Chip>
      )}
      <span className="flex-1" />
      <KeptSelections />
    </div>
  );
}

interface ChoiceProps {
  label: string;
  value: string;
  options: readonly (readonly string[])[] | undefined;
  pick(value: string): void;
}

/** One filter; filled with honey where it is set. */
function Choice({ label, value, options = [], pick }: ChoiceProps) {
  return (
    <ChipSelect
      aria-label={label}
      className={`max-w-44 ${value === '' ? '' : 'chip-on'}`}
      value={value}
      onChange={(event) => pick(event.target.value)}
    >
      <option value="">{label}: any</option>
      {options.map(([key, title]) => (
        <option key={key} value={key}>
          {title}
        </option>
      ))}
    </ChipSelect>
  );
}
