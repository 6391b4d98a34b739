'use client';

import { baseColourVerdict } from '@kinkajou/core/compare/verdict';
import type { ChannelDifference } from '@kinkajou/core/compare/compareMaterials';
import { CHANNELS, type ChannelName } from '@kinkajou/core/scene/material';
import { ArrowLeftRight } from 'lucide-react';
import Link from 'next/link';
import { useEffect, useMemo } from 'react';
import type { SideEntry } from '@/server/services/compare';
import { COMPARE_WAYS, type CompareWay, useChoices } from '@/ui/choices';
import { channelTitle, when } from '@/ui/format';
import { Mark } from '@/ui/Mark';
import { isTyping } from '../bench/keys.ts';
import { useBench } from '../bench/useBench.ts';
import { StepSheet } from '../steps/StepSheet.tsx';
import { type MaterialRows, pictureOfPair, useCompareFocus, useCursor, useDifferences, usePair } from './useCompare.ts';

const WAY_TITLES: Record<CompareWay, string> = { wipe: 'Wipe', beside: 'Side by side', blink: 'Blink', difference: 'Difference' };
const SCALES = [1, 4, 8, 16, 64] as const;
const LIMITS = [0.5, 1.5, 3, 8, 16] as const;

/** Two readings of the asset against each other: in the view, and in numbers. */
export function CompareStep() {
  const pair = usePair();
  const compare = useChoices((choices) => choices.compare);
  const setCompare = useChoices((choices) => choices.setCompare);
  const rows = useDifferences(pair?.a.side, pair?.b.side);
  useCompareKeys();
  if (!pair) return <p className="p-8 text-center text-[var(--soft)]">asking what can be compared ...</p>;
  const { a, b, sides } = pair;
  const handoffs = sides.filter(({ side }) => side.startsWith('handoff:')).length;
  return (
    <StepSheet
      title="Compare"
      actions={
        <fieldset className="seg" aria-label="Way of comparing">
          {COMPARE_WAYS.map((way) => (
            <button key={way} type="button" aria-pressed={compare.way === way} onClick={() => setCompare({ way })}>
              {WAY_TITLES[way]}
            </button>
          ))}
        </fieldset>
      }
    >
      <div className="grid grid-cols-[minmax(0,1fr)] gap-3 p-4">
        <div className="grid grid-cols-[minmax(0,1fr)_auto_minmax(0,1fr)] items-end gap-2">
          <SideSelect letter="A" sides={sides} value={a} change={(side) => setCompare({ a: side })} />
          <button
            type="button"
            className="act mb-0.5"
            title="Exchange A and B"
            aria-label="Exchange A and B"
            onClick={() => setCompare({ a: b.side, b: a.side })}
          >
            <ArrowLeftRight size={13} />
          </button>
          <SideSelect letter="B" sides={sides} value={b} change={(side) => setCompare({ b: side })} />
        </div>
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5 text-[12.3px]">
          <label className="flex items-center gap-1.5">
            Difference times
            <select className="chip" value={compare.scale} onChange={(event) => setCompare({ scale: Number(event.target.value) })}>
              {SCALES.map((scale) => (
                <option key={scale} value={scale}>
                  {scale}
                </option>
              ))}
            </select>
          </label>
          <label className="flex items-center gap-1.5">
            Count places beyond
            <select className="chip" value={compare.limit} onChange={(event) => setCompare({ limit: Number(event.target.value) })}>
              {LIMITS.map((limit) => (
                <option key={limit} value={limit}>
                  {limit} of 255
                </option>
              ))}
            </select>
          </label>
        </div>
        {handoffs === 0 && (
          <p className="text-[12.3px] text-[var(--soft)]">
            No package was made yet;{' '}
            <Link className="underline underline-offset-2" href="handoff">
              hand the asset off
            </Link>{' '}
            to compare it with what its receiver reads.
          </p>
        )}
        {a.side === b.side ? <p className="text-[var(--soft)]">A and B are the same. Choose another one.</p> : <Numbers rows={rows} a={a} b={b} />}
      </div>
    </StepSheet>
  );
}

function SideSelect({ letter, sides, value, change }: { letter: 'A' | 'B'; sides: readonly SideEntry[]; value: SideEntry; change: (side: string) => void }) {
  const detail = ({ side, detail: text }: SideEntry) => {
    if (!side.startsWith('handoff:')) return text;
    const [verdict, at] = text.split(', ');
    return `handoff, ${verdict}, ${when(at)}`;
  };
  return (
    <label className="block min-w-0 text-[12.3px]">
      <span className="flex items-baseline gap-1.5">
        <b className="grid size-[18px] place-items-center rounded-full bg-primary text-[11px] text-primary-content">{letter}</b>
        <span className="truncate text-[11.5px] text-[var(--soft)]">{detail(value)}</span>
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
            {entry.side.startsWith('handoff:') ? `, ${when(entry.detail.split(', ')[1])}` : ''}
          </option>
        ))}
      </select>
    </label>
  );
}

function Numbers({ rows, a, b }: { rows: readonly MaterialRows[]; a: SideEntry; b: SideEntry }) {
  const { view } = useBench();
  const done = rows.filter(({ channels, error }) => channels || error).length;
  const focus = useCompareFocus();
  const setView = useChoices((choices) => choices.setView);
  const choose = (material: string, channel: string) => {
    useCompareFocus.setState({ material, channel });
    if (isChannel(channel)) setView({ mode: channel });
  };
  const shown = rows.filter(({ channels, error }) => error || (channels && channels.length > 0));
  return (
    <>
      <Verdict rows={rows} done={done} />
      {done < rows.length && <progress className="progress progress-accent h-1.5 w-full" aria-label="Comparing" value={done} max={rows.length} />}
      {focus.material && focus.channel && <Pictures a={a} b={b} material={focus.material} channel={focus.channel} />}
      <table className="sheet-table rounded border border-[var(--line)]" aria-label="Differences">
        <thead>
          <tr>
            <th />
            <th>Channel</th>
            <th className="!text-right">Mean</th>
            <th className="!text-right">Largest</th>
            <th className="!text-right" title="CIEDE2000: about 1 is just seen">
              Colour ΔE
            </th>
            <th className="!text-right">Beyond</th>
          </tr>
        </thead>
        <tbody>
          {shown.map(({ material, channels, error }) => (
            <MaterialSection
              key={material}
              material={material}
              channels={channels ?? []}
              error={error}
              focused={focus.material === material ? focus.channel : null}
              choose={choose}
            />
          ))}
        </tbody>
      </table>
      {done === rows.length && shown.length === 0 && (
        <p className="text-[var(--soft)]">
          {view.state.materials.length === 0 ? 'There are no materials to compare.' : 'The two sides have no material in common.'}
        </p>
      )}
    </>
  );
}

/** Proof of a right handoff: the base colour alone, unlit, is the same on both sides. */
function Verdict({ rows, done }: { rows: readonly MaterialRows[]; done: number }) {
  const { equal, largest, compared } = baseColourVerdict(rows.map(({ material, channels }) => ({ material, channels: channels ?? [] })));
  if (done < rows.length)
    return (
      <p className="text-[var(--soft)]">
        comparing material {done + 1} of {rows.length} ...
      </p>
    );
  const mixed = rows.some(({ channels }) => channels?.some(({ channel }) => channel === 'diffuse'));
  if (compared === 0)
    return (
      <p className="text-[12.3px] text-[var(--soft)]">
        {mixed
          ? 'The two sides shade in other ways; their diffuse and reflectance are compared instead of base colours.'
          : 'There is no base colour to compare.'}
      </p>
    );
  return (
    <p className="flex items-baseline gap-2" role="status">
      <Mark kind={equal ? 'fine' : 'broken'} />
      <span>
        {equal ? <b>Unlit base colour: equal within rounding</b> : <b>Unlit base colour: not equal</b>}, {compared} of {rows.length} materials, at most{' '}
        {steps(largest)} apart.
      </span>
    </p>
  );
}

function MaterialSection({
  material,
  channels,
  error,
  focused,
  choose,
}: {
  material: string;
  channels: readonly ChannelDifference[];
  error: string | null;
  focused: string | null;
  choose: (material: string, channel: string) => void;
}) {
  return (
    <>
      <tr>
        <td colSpan={6} className="!bg-base-200 font-semibold">
          {material} {error && <span className="font-normal text-error">{error}</span>}
        </td>
      </tr>
      {channels.map((one) => (
        <tr
          key={one.channel}
          tabIndex={0}
          aria-selected={focused === one.channel}
          className={`cursor-pointer outline-accent focus-visible:outline-2 ${focused === one.channel ? 'bg-[var(--honey-wash)]' : 'hover:bg-base-200'}`}
          onClick={() => choose(material, one.channel)}
          onKeyDown={(event) => {
            if (event.key === 'Enter' || event.key === ' ') {
              event.preventDefault();
              choose(material, one.channel);
            }
          }}
        >
          <td>
            <Mark kind={one.beyond === 0 ? 'fine' : one.beyond < 0.01 ? 'doubtful' : 'broken'} />
          </td>
          <td>
            {titleOf(one.channel)}
            {one.sizes[0] !== one.sizes[1] && (
              <span className="block text-[11px] text-[var(--soft)]">
                {one.sizes[0]} against {one.sizes[1]}
              </span>
            )}
          </td>
          <td className="text-right font-mono text-[11.5px] whitespace-nowrap">{amount(one.mean, one)}</td>
          <td className="text-right font-mono text-[11.5px] whitespace-nowrap">{amount(one.largest, one)}</td>
          <td className="text-right font-mono text-[11.5px] whitespace-nowrap">
            {one.deltaE ? `${one.deltaE.mean.toFixed(2)}, ${one.deltaE.largest.toFixed(1)}` : ''}
          </td>
          <td className="text-right font-mono text-[11.5px] whitespace-nowrap">{share(one.beyond)}</td>
        </tr>
      ))}
    </>
  );
}

/** Where the chosen channel differs: either side, and the difference, over the image. */
function Pictures({ a, b, material, channel }: { a: SideEntry; b: SideEntry; material: string; channel: string }) {
  const { view } = useBench();
  const cursor = useCursor();
  const scale = useChoices((choices) => choices.compare.scale);
  const pair = useMemo(() => ({ a: a.side, b: b.side }), [a.side, b.side]);
  const titles = { a: 'A', b: 'B', difference: `difference × ${scale}` } as const;
  return (
    <figure className="m-0 grid grid-cols-3 gap-2" aria-label={`${material}, ${titleOf(channel)}`}>
      {(['a', 'b', 'difference'] as const).map((what) => (
        <div key={what} className="min-w-0">
          <img
            className="block aspect-square w-full rounded border border-[var(--line)] object-contain"
            style={{ background: 'var(--sky-low)' }}
            src={pictureOfPair(view.id, pair, material, channel, what, scale, cursor)}
            alt={`${titleOf(channel)} of ${material}, ${titles[what]}`}
          />
          <span className="mt-0.5 block text-center text-[11.5px] text-[var(--soft)]">{titles[what]}</span>
        </div>
      ))}
      <figcaption className="col-span-full truncate text-[12px]">
        <b>{material}</b>, {titleOf(channel).toLowerCase()}; bright is where they differ
      </figcaption>
    </figure>
  );
}

function titleOf(channel: string): string {
  if (isChannel(channel)) return channelTitle(channel);
  return channel === 'diffuse' ? 'Diffuse' : 'Reflectance';
}

function isChannel(channel: string): channel is ChannelName {
  return (CHANNELS as readonly string[]).includes(channel);
}

function amount(value: number, { kind }: ChannelDifference): string {
  if (kind === 'length') return value === 0 ? '0 m' : `${value.toPrecision(2)} m`;
  return steps(value);
}

function steps(value: number): string {
  return `${(value * 255).toFixed(2)}/255`;
}

function share(value: number): string {
  if (value === 0) return '0 %';
  return value < 0.001 ? '< 0.1 %' : `${(value * 100).toFixed(1)} %`;
}

/** K takes the next way of comparing, comma and full stop move the wipe. */
function useCompareKeys(): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return;
      const { compare, setCompare } = useChoices.getState();
      if (event.key === 'k') setCompare({ way: COMPARE_WAYS[(COMPARE_WAYS.indexOf(compare.way) + 1) % COMPARE_WAYS.length] });
      else if (event.key === ',') setCompare({ at: Math.max(0, compare.at - 0.05) });
      else if (event.key === '.') setCompare({ at: Math.min(1, compare.at + 0.05) });
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
}
