'use client';

import { useDroppable } from '@dnd-kit/core';
import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import type { Channel, ChannelName, MapUse } from '@kinkajou/core/scene/material';
import { type MouseEvent, memo } from 'react';
import { pictureUrl } from '@/ui/api';
import { spaceLabel } from '@/ui/format';
import { Mark } from '@/ui/Mark';
import type { Cell } from './boardModel.ts';
import type { DropTarget } from './ImageDrag.tsx';

interface BoardCellProps {
  material: string;
  channel: ChannelName;
  cell: Cell;
  selected: boolean;
  active: boolean;
  onPick(material: string, channel: ChannelName, event: MouseEvent): void;
  onOpen(): void;
}

/**
 * One slot: a picture with its mark and component, file name and colour tag below where the board's rows have
 * room.
 */
export const BoardCell = memo(function BoardCell({
  material,
  channel,
  cell,
  selected,
  active,
  onPick,
  onOpen,
}: BoardCellProps) {
  const { setNodeRef, isOver } = useDroppable({
    id: `slot:${material}/${channel}`,
    data: { on: 'slot', slot: { material, channel } } satisfies DropTarget,
  });
  return (
    <div
      ref={setNodeRef}
      role="gridcell"
      tabIndex={-1}
      aria-selected={selected}
      aria-label={`${material}, ${channelTitle(channel)}: ${describe(cell)}`}
      title={cell.label === '' ? undefined : cell.label}
      data-slot={`${material}/${channel}`}
      className={`h-[var(--row)] cursor-pointer border-b border-l border-[var(--line-soft)] px-1 pt-[3px] ${selected || isOver ? 'bg-[var(--honey-wash)]' : ''} ${active || isOver ? 'shadow-[inset_0_0_0_2px_var(--color-accent)]' : ''}`}
      onMouseDown={(event) => onPick(material, channel, event)}
      onDoubleClick={onOpen}
    >
      <Face cell={cell} channel={channel} />
      <div
        className="mt-0.5 gap-1 overflow-hidden text-[10.5px] leading-[15px] whitespace-nowrap text-[var(--soft)]"
        style={{ fontStretch: '84%', display: 'var(--label)' }}
      >
        <span className="min-w-0 overflow-hidden text-ellipsis" title={cell.label}>
          {cell.label}
        </span>
        {cell.channel?.map && (
          <em className="ml-auto shrink-0 font-semibold text-secondary not-italic">
            {spaceLabel(cell.channel.map.space)}
          </em>
        )}
      </div>
    </div>
  );
});

function Face({ cell, channel }: { cell: Cell; channel: ChannelName }) {
  const map = cell.channel?.map;
  if (cell.kind === 'empty') {
    return (
      <div className="grid h-[var(--face)] place-items-center rounded border-[1.5px] border-dashed border-[var(--line)] text-[11px] text-[var(--soft)]">
        –
      </div>
    );
  }
  if (cell.kind === 'missing') {
    return (
      <div className="missing-stripes relative grid h-[var(--face)] place-items-center rounded border border-error text-[11px] font-semibold text-error">
        {cell.image?.fault ? 'broken' : 'missing'}
      </div>
    );
  }
  if (cell.kind === 'value') {
    return (
      <div
        className="relative grid h-[var(--face)] place-items-center rounded border border-[var(--line)] font-mono text-[12px] font-semibold"
        style={swatch(cell.channel, channel)}
      >
        {valueText(cell.channel?.value)}
        <Corner mark={cell.mark} />
      </div>
    );
  }
  return (
    <div
      className="relative h-[var(--face)] rounded border border-black/15 bg-cover bg-center"
      style={{ backgroundImage: cell.image ? `url(${pictureUrl(cell.image.sha256, 192)})` : undefined }}
    >
      <Corner mark={cell.mark} always />
      <span className="absolute right-0.5 bottom-0.5 rounded-[3px] bg-[#fffdf6ea] px-[3px] font-mono text-[10px] font-semibold text-[#1d2b26]">
        {map?.invert && '1-'}
        {badgeOf(channel, map)}
      </span>
    </div>
  );
}

function badgeOf(channel: ChannelName, map: MapUse | null | undefined) {
  if (channel === 'normal') return map?.normalY;
  return map?.component === 'luminance' ? 'lum' : map?.component;
}

function Corner({ mark, always = false }: { mark: Cell['mark']; always?: boolean }) {
  if (!always && mark === 'fine') return null;
  return (
    <span className="absolute top-[3px] left-[3px] grid size-[13px] place-items-center rounded-[3px] bg-[#fffdf6e6]">
      <Mark kind={mark} size={9} />
    </span>
  );
}

function swatch(channel: Channel | null, name: ChannelName): { background?: string; color?: string } {
  if (!channel || typeof channel.value === 'number' || name === 'normal')
    return { background: 'var(--well)' };
  const encode = (x: number) =>
    Math.round(255 * Math.min(1, x <= 0.0031308 ? x * 12.92 : 1.055 * x ** (1 / 2.4) - 0.055));
  const [r, g, b] = channel.value.map(encode);
  return {
    background: `rgb(${r} ${g} ${b})`,
    color: r * 0.3 + g * 0.6 + b * 0.1 > 140 ? '#22302a' : '#f7f1de',
  };
}

/** A value in two digits. */
export function valueText(value: Channel['value'] | undefined): string {
  if (value === undefined) return '';
  if (typeof value === 'number') return value.toFixed(2);
  return value
    .map((component) => {
      if (component === 1) return '1';
      return component === 0 ? '0' : component.toFixed(2).replace(/^0/, '');
    })
    .join(' ');
}

function describe(cell: Cell): string {
  if (cell.kind === 'empty') return 'empty';
  if (cell.kind === 'value') return `value ${valueText(cell.channel?.value)}`;
  return `${cell.kind === 'missing' ? 'missing ' : ''}${cell.label}, component ${cell.channel?.map?.component}, ${spaceLabel(cell.channel?.map?.space ?? 'unknown')}${cell.channel?.map?.invert ? ', inverted' : ''}, ${cell.mark}`;
}
