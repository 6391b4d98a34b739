'use client';

import { spaceOfChromaticities } from '@kinkajou/core/colour/primaries';
import { isColourSpace, spaceDefinition } from '@kinkajou/core/colour/spaces';
import { adjustEdit } from '@kinkajou/core/edits/slotEdits';
import { STATE_WORDS } from '@kinkajou/core/maps/encodingState';
import { ALBEDO_BAND, judgeEncoding } from '@kinkajou/core/maps/judgeEncoding';
import { nameSpace } from '@kinkajou/core/maps/nameSpace';
import type { PixelFacts } from '@kinkajou/core/maps/pixelFacts';
import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { COLOUR_CHANNELS } from '@kinkajou/core/scene/material';
import { useQuery } from '@tanstack/react-query';
import dynamic from 'next/dynamic';
import { useEffect, useMemo, useState } from 'react';
import { api } from '@/ui/api';
import { Button } from '@/ui/Button';
import { Chip } from '@/ui/Chip';
import { Field } from '@/ui/Field';
import { fileName, spaceLabel } from '@/ui/format';
import { patiently } from '@/ui/patiently';
import { sameSlot, useFocus } from '../bench/focus.ts';
import { type Bench, useBench } from '../bench/useBench.ts';
import { useExponentPreview } from './exponentPreview.ts';
import type { TagRow } from './tagRows.ts';

const Histogram = dynamic(
  () => patiently(() => import('./Histogram.tsx')).then((module) => module.Histogram),
  { ssr: false },
);

/**
 * The focused use: what its numbers look like, an exponent tried on the model, and conversion to another
 * space.
 */
export function ColourDetails({ rows }: { rows: TagRow[] }) {
  const bench = useBench();
  const { slot, selected, set } = useFocus();
  const row = rows.find((one) => sameSlot(one, slot));
  const hash = row?.file?.info ? row.file.sha256 : null;
  const facts = useQuery({
    queryKey: ['facts', hash, bench.view.looked.done],
    queryFn: () => api<{ facts: PixelFacts | null }>(`/api/facts/${hash}`),
    enabled: hash !== null,
  }).data?.facts;
  if (!row) return null;
  const colour = COLOUR_CHANNELS.has(row.channel);
  return (
    <section
      className="flex min-h-[176px] flex-wrap gap-3.5 border-t border-[var(--line)] bg-base-200 px-3.5 py-2.5"
      aria-label="Colour details"
    >
      <div className="grid w-[230px] content-start gap-1">
        {facts ? (
          <FactsHistogram facts={facts} row={row} />
        ) : (
          <p className="grid h-[104px] place-items-center text-[12px] text-[var(--soft)]">
            {hash ? 'the pixels are being looked at' : 'no image to look at'}
          </p>
        )}
        {facts && (
          <span className="narrow text-[11.3px] text-[var(--soft)]">
            median {facts.percentiles[3].toFixed(3)}, 5 to 95%: {facts.percentiles[1].toFixed(3)} to{' '}
            {facts.percentiles[5].toFixed(3)}
            {facts.over > 0 && `, ${(facts.over * 100).toFixed(1)}% above 1`}
          </span>
        )}
      </div>
      <div className="grid min-w-[220px] flex-1 auto-rows-min grid-cols-[minmax(0,1fr)] gap-1.5 text-[12.3px]">
        <b className="truncate">
          {channelTitle(row.channel)} of {row.material}: {fileName(row.entry.resolved ?? row.entry.written)}
        </b>
        <span className="text-[var(--soft)]">
          {spaceLabel(row.map.space)}
          {isColourSpace(row.map.space) ? `, ${spaceDefinition(row.map.space).title}` : ''} ({row.map.space})
        </span>
        {facts && colour && facts.floating && <Encoding bench={bench} row={row} facts={facts} />}
        {colour && (
          <ExponentControl
            key={row.key}
            bench={bench}
            row={row}
            slots={selected.some((one) => sameSlot(one, row)) ? selected : [row]}
          />
        )}
        {colour && row.file?.info && (
          <Button className="w-fit" onClick={() => set({ dialog: 'convert' })}>
            Convert the image ...
          </Button>
        )}
        {!colour && <span className="text-[var(--soft)]">Data: its numbers are read as they stand.</span>}
      </div>
    </section>
  );
}

function FactsHistogram({ facts, row }: { facts: PixelFacts; row: TagRow }) {
  const { space, exponent = 1 } = row.map;
  const required = row.channel === 'baseColor';
  const band = useMemo((): [number, number] | null => {
    if (!required) return null;
    const { encode } = isColourSpace(space)
      ? spaceDefinition(space).transfer
      : { encode: (value: number) => value };
    const stored = (light: number) => encode(light) ** (1 / exponent);
    return [stored(ALBEDO_BAND[0]), stored(ALBEDO_BAND[1])];
  }, [required, space, exponent]);
  return <Histogram facts={facts} band={band} />;
}

function Encoding({ bench, row, facts }: { bench: Bench; row: TagRow; facts: PixelFacts }) {
  const path = row.file?.path ?? '';
  const judged = judgeEncoding(facts, {
    name: nameSpace(path),
    header: spaceOfChromaticities(row.file?.info?.chromaticities),
  });
  return (
    <span>
      The numbers look <b>{STATE_WORDS[judged.state]}</b> ({judged.confidence.toFixed(2)}):{' '}
      {judged.evidence[0]}.
      {row.proposed && row.proposed !== row.map.space && (
        <Button
          className="ml-2"
          disabled={bench.busy}
          onClick={() => bench.apply([adjustEdit([row], { space: row.proposed ?? 'data' })])}
        >
          Tag {spaceLabel(row.proposed)}
        </Button>
      )}
    </span>
  );
}

/** A slider from 1/2.6 to 2.6, on a logarithmic scale so that both ways feel alike. */
const REACH = Math.log(2.6);

function ExponentControl({
  bench,
  row,
  slots,
}: {
  bench: Bench;
  row: TagRow;
  slots: { material: string; channel: TagRow['channel'] }[];
}) {
  const stored = row.map.exponent ?? 1;
  const [value, setValue] = useState(stored);
  const preview = useExponentPreview((state) => state.set);
  useEffect(() => setValue(stored), [stored]);
  useEffect(() => () => preview({ slots: [], exponent: null }), [preview]);
  const colours = slots
    .filter(({ channel }) => COLOUR_CHANNELS.has(channel))
    .map(({ material, channel }) => ({ material, channel }));
  const attempt = (next: number) => {
    setValue(next);
    preview({ slots: colours, exponent: next });
  };
  const commit = (next: number) => {
    const exponent = Math.round(Math.min(10, Math.max(0.1, next)) * 1000) / 1000;
    setValue(exponent);
    if (exponent !== stored) bench.apply([adjustEdit(colours, { exponent })]);
    preview({ slots: [], exponent: null });
  };
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      <span className="text-[var(--soft)]">Exponent</span>
      <input
        type="range"
        className="range range-xs w-20"
        aria-label="Exponent"
        min={-1}
        max={1}
        step={0.005}
        value={Math.log(value) / REACH}
        onChange={(event) => attempt(Math.exp(Number(event.target.value) * REACH))}
        onPointerUp={() => commit(value)}
        onKeyUp={(event) => event.key.startsWith('Arrow') && commit(value)}
      />
      <Field
        className="w-14 font-mono text-[11.5px]"
        aria-label="Exponent as a number"
        value={value.toFixed(3).replace(/0+$/, '').replace(/\.$/, '')}
        onChange={(event) => Number(event.target.value) > 0 && attempt(Number(event.target.value))}
        onBlur={() => commit(value)}
        onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      />
      {[
        ['1', 1],
        ['2.2', 2.2],
        ['1/2.2', 1 / 2.2],
      ].map(([text, exponent]) => (
        <Chip key={text} onClick={() => commit(exponent as number)}>
          {text}
        </Chip>
      ))}
    </div>
  );
}
