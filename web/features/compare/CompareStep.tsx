'use client';

import { ArrowLeftRight, Undo2 } from 'lucide-react';
import type { SideEntry } from '@/server/services/compare';
import { Button, buttonClass } from '@/ui/Button';
import { ChipSelect } from '@/ui/Chip';
import { COMPARE_WAYS, type CompareWay, useChoices } from '@/ui/choices';
import { useCommands } from '@/ui/commands/useCommands';
import { when } from '@/ui/format';
import { Link } from '@/ui/Link';
import { Segments } from '@/ui/Segments';
import { StepSheet } from '../steps/StepSheet.tsx';
import { Numbers } from './Numbers.tsx';
import { useCameBack, useDifferences, usePair } from './useCompare.ts';
import { Whole } from './Whole.tsx';

const WAY_TITLES: Record<CompareWay, string> = {
  wipe: 'Wipe',
  beside: 'Side by side',
  blink: 'Blink',
  difference: 'Difference',
};
const SCALES = [1, 4, 8, 16, 64] as const;
const LIMITS = [0.5, 1.5, 3, 8, 16] as const;

/** Two readings of the asset against each other: in the view, and in numbers. */
export function CompareStep() {
  const pair = usePair();
  const compare = useChoices((choices) => choices.compare);
  const setCompare = useChoices((choices) => choices.setCompare);
  const rows = useDifferences(pair?.a.side, pair?.b.side);
  useCompareCommands();
  if (!pair) return <p className="p-8 text-center text-[var(--soft)]">asking what can be compared ...</p>;
  const { a, b, sides } = pair;
  const handoffs = sides.filter(({ kind }) => kind === 'handoff').length;
  return (
    <StepSheet
      title="Compare"
      actions={
        <Segments
          label="Way of comparing"
          options={COMPARE_WAYS.map((way) => [way, WAY_TITLES[way]] as const)}
          value={compare.way}
          pick={(way) => setCompare({ way })}
        />
      }
    >
      <div className="grid grid-cols-[minmax(0,1fr)] gap-3 p-4">
        <div className="grid grid-cols-[minmax(0,1fr)_auto_minmax(0,1fr)] items-end gap-2">
          <SideSelect letter="A" sides={sides} value={a} change={(side) => setCompare({ a: side })} />
          <Button
            className="mb-0.5"
            title="Exchange A and B"
            aria-label="Exchange A and B"
            onClick={() => setCompare({ a: b.side, b: a.side })}
          >
            <ArrowLeftRight size={13} />
          </Button>
          <SideSelect letter="B" sides={sides} value={b} change={(side) => setCompare({ b: side })} />
        </div>
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5 text-[12.3px]">
          <label className="flex items-center gap-1.5">
            Difference times
            <ChipSelect
              value={compare.scale}
              onChange={(event) => setCompare({ scale: Number(event.target.value) })}
            >
              {SCALES.map((scale) => (
                <option key={scale} value={scale}>
                  {scale}
                </option>
              ))}
            </ChipSelect>
          </label>
          <label className="flex items-center gap-1.5">
            Count places beyond
            <ChipSelect
              value={compare.limit}
              onChange={(event) => setCompare({ limit: Number(event.target.value) })}
            >
              {LIMITS.map((limit) => (
                <option key={limit} value={limit}>
                  {limit} of 255
                </option>
              ))}
            </ChipSelect>
          </label>
        </div>
        <CameBack />
        {handoffs === 0 && (
          <p className="text-[12.3px] text-[var(--soft)]">
            No package was made yet;{' '}
            <Link className="underline underline-offset-2" href="handoff">
              hand the asset off
            </Link>{' '}
            to compare it with what its receiver reads.
          </p>
        )}
        {a.side === b.side ? (
          <p className="text-[var(--soft)]">A and B are the same. Choose another one.</p>
        ) : (
          <>
            <Whole a={a} b={b} />
            <Numbers rows={rows} a={a} b={b} />
          </>
        )}
      </div>
    </StepSheet>
  );
}

/** What another application made of the asset is laid beside it, never over it. */
function CameBack() {
  const back = useCameBack();
  return (
    <label
      className={`${buttonClass()} w-fit focus-within:outline-2`}
      title="A model or a zip that another application made of this asset; it becomes side B"
    >
      <Undo2 size={13} /> {back.isPending ? 'reading what came back ...' : 'It came back ...'}
      <input
        type="file"
        multiple
        className="sr-only"
        aria-label="What came back from another application"
        disabled={back.isPending}
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          event.target.value = '';
          if (files.length > 0) back.mutate(files);
        }}
      />
    </label>
  );
}

function SideSelect({
  letter,
  sides,
  value,
  change,
}: {
  letter: 'A' | 'B';
  sides: readonly SideEntry[];
  value: SideEntry;
  change: (side: string) => void;
}) {
  const { detail, at: place } = value;
  return (
    <label className="block min-w-0 text-[12.3px]">
      <span className="flex items-baseline gap-1.5">
        <b className="grid size-[18px] place-items-center rounded-full bg-primary text-[11px] text-primary-content">
          {letter}
        </b>
        <span className="truncate text-[11.5px] text-[var(--soft)]">
          {place ? `${detail}, ${when(place)}` : detail}
        </span>
      </span>
      <select
        className="mt-1 w-full rounded border border-[var(--line)] bg-base-100 px-2 py-1"
        aria-label={`Side ${letter}`}
        value={value.side}
        onChange={(event) => change(event.target.value)}
      >
        {sides.map((entry) => (
          <option key={entry.side} value={entry.side}>
            {entry.title}
            {entry.at ? `, ${when(entry.at)}` : ''}
          </option>
        ))}
      </select>
    </label>
  );
}

const WIPE_STEP = 0.05;

function useCompareCommands(): void {
  const change =
    (part: (compare: ReturnType<typeof useChoices.getState>['compare']) => Partial<typeof compare>) => () => {
      const { compare, setCompare } = useChoices.getState();
      setCompare(part(compare));
    };
  useCommands({
    compareWay: change(({ way }) => ({
      way: COMPARE_WAYS[(COMPARE_WAYS.indexOf(way) + 1) % COMPARE_WAYS.length],
    })),
    wipeLeft: change(({ at: index }) => ({ at: Math.max(0, index - WIPE_STEP) })),
    wipeRight: change(({ at: offset }) => ({ at: Math.min(1, offset + WIPE_STEP) })),
  });
}
