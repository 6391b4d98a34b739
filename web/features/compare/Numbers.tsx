'use client';

import type { ChannelDifference } from '@kinkajou/core/compare/compareMaterials';
import { baseColourVerdict } from '@kinkajou/core/compare/verdict';
import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { CHANNELS, type ChannelName } from '@kinkajou/core/scene/material';
import { useMemo } from 'react';
import type { SideEntry } from '@/server/services/compare';
import { Button } from '@/ui/Button';
import { useChoices } from '@/ui/choices';

import { Mark, type MarkKind } from '@/ui/Mark';
import { useBench } from '../bench/useBench.ts';
import { takeOverEdit } from './takeOver.ts';
import { type MaterialRows, pictureOfPair, useCompareFocus, useSide } from './useCompare.ts';

/** How far both sides lie apart, by material and channel; a row that is chosen shows where. */
export function Numbers({ rows, a, b }: { rows: readonly MaterialRows[]; a: SideEntry; b: SideEntry }) {
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
      {done < rows.length && (
        <progress
          className="progress progress-accent h-1.5 w-full"
          aria-label="Comparing"
          value={done}
          max={rows.length}
        />
      )}
      {focus.material && focus.channel && (
        <Pictures a={a} b={b} material={focus.material} channel={focus.channel} />
      )}
      <table
        className="table table-xs table-pin-rows rounded border border-[var(--line)]"
        aria-label="Differences"
      >
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
          {view.state.materials.length === 0
            ? 'There are no materials to compare.'
            : 'The two sides have no material in common.'}
        </p>
      )}
    </>
  );
}

/** Proof of a right handoff: the base colour alone, unlit, is the same on both sides. */
function Verdict({ rows, done }: { rows: readonly MaterialRows[]; done: number }) {
  const { equal, largest, compared } = baseColourVerdict(
    rows.map(({ material, channels }) => ({ material, channels: channels ?? [] })),
  );
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
        {equal ? <b>Unlit base colour: equal within rounding</b> : <b>Unlit base colour: not equal</b>},{' '}
        {compared} of {rows.length} materials, at most {steps(largest)} apart.
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
            <Mark kind={markOf(one)} />
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

function markOf(one: ChannelDifference): MarkKind {
  if (one.beyond === 0) return 'fine';
  return one.beyond < 0.01 ? 'doubtful' : 'broken';
}

/** Where the chosen channel differs: either side, and the difference, over the image. */
function Pictures({
  a,
  b,
  material,
  channel,
}: {
  a: SideEntry;
  b: SideEntry;
  material: string;
  channel: string;
}) {
  const { view } = useBench();
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
            src={pictureOfPair(view.id, { ...pair, material, channel, what, scale }, view.version)}
            alt={`${titleOf(channel)} of ${material}, ${titles[what]}`}
          />
          <span className="mt-0.5 block text-center text-[11.5px] text-[var(--soft)]">{titles[what]}</span>
        </div>
      ))}
      <figcaption className="col-span-full flex items-center gap-2 text-[12px]">
        <span className="min-w-0 flex-1 truncate">
          <b>{material}</b>, {titleOf(channel).toLowerCase()}; bright is where they differ
        </span>
        {b.kind === 'asset' && <TakeOver side={b.side} material={material} channel={channel} />}
      </figcaption>
    </figure>
  );
}

/**
 * What came back may be an improvement: a value of another asset is taken over as an edit; images stay where
 * they are.
 */
function TakeOver({ side, material, channel }: { side: string; material: string; channel: string }) {
  const bench = useBench();
  const other = useSide(side);
  const key = other?.materials[material];
  const existing = other?.models.flatMap(({ state }) => state.materials).find((one) => one.key === key);
  const theirs = isChannel(channel) ? existing?.channels[channel] : undefined;
  if (!isChannel(channel) || !theirs || theirs.map) return null;
  const take = () => bench.apply([takeOverEdit(material, channel, theirs.value, bench.view.state.materials)]);
  return (
    <Button disabled={bench.busy} onClick={take} title="Becomes an edit of this asset, and can be undone">
      Take over{' '}
      {[theirs.value]
        .flat()
        .map((component) => Number(component.toFixed(3)))
        .join(' ')}
    </Button>
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
