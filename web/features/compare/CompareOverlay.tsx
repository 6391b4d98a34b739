'use client';

import { type PointerEvent, useRef } from 'react';
import { useChoices } from '@/ui/choices';
import { useCompareFocus, usePair } from './useCompare.ts';

/** Names of the sides over the view, and the line of the wipe to drag. */
export function CompareOverlay() {
  const pair = usePair();
  const { way, at: index, scale } = useChoices((choices) => choices.compare);
  const setCompare = useChoices((choices) => choices.setCompare);
  const lit = useChoices((choices) => choices.view.mode === 'lit');
  const { blinkB, scaled } = useCompareFocus();
  const area = useRef<HTMLDivElement>(null);
  if (!pair) return null;
  const drag = (event: PointerEvent) => {
    const box = area.current?.getBoundingClientRect();
    if (box && event.buttons === 1)
      setCompare({ at: Math.min(1, Math.max(0, (event.clientX - box.left) / box.width)) });
  };
  const titleB = scaled ? `${pair.b.title}, drawn at A's size` : pair.b.title;
  const line = way === 'wipe' ? index : 0.5;
  const shows = (side: 'A' | 'B') => (way === 'blink' ? blinkB === (side === 'B') : way !== 'difference');
  const tag = (letter: string, title: string) => (
    <span className="flex max-w-[46%] items-center gap-1.5 rounded-[5px] bg-base-100/85 px-2 py-1 text-[11.5px]">
      <b className="grid size-4 shrink-0 place-items-center rounded-full bg-primary text-[10px] text-primary-content">
        {letter}
      </b>
      <span className="truncate">{title}</span>
    </span>
  );
  return (
    <div ref={area} className="pointer-events-none absolute inset-0" onPointerMove={drag}>
      <div className="absolute inset-x-2 top-2 flex justify-between gap-2">
        {way === 'difference' && (
          <span className="rounded-[5px] bg-base-100/85 px-2 py-1 text-[11.5px]">
            difference {lit ? 'of light ' : ''}× {scale}; dark is none, bright is much
          </span>
        )}
        {shows('A') && tag('A', pair.a.title)}
        {shows('B') && tag('B', titleB)}
      </div>
      {(way === 'wipe' || way === 'beside') && (
        <div className="absolute inset-y-0 w-px bg-accent" style={{ left: `${line * 100}%` }} />
      )}
      {way === 'wipe' && (
        <div
          role="slider"
          tabIndex={0}
          aria-label="Wipe between A and B"
          aria-valuemin={0}
          aria-valuemax={100}
          aria-valuenow={Math.round(index * 100)}
          className="pointer-events-auto absolute top-1/2 grid h-11 w-5 -translate-x-1/2 -translate-y-1/2 cursor-ew-resize touch-none place-items-center rounded-full border border-accent bg-base-100 text-[11px] outline-offset-2 select-none"
          style={{ left: `${index * 100}%` }}
          onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
          onPointerMove={drag}
          onKeyDown={(event) => {
            const by = { ArrowLeft: -0.05, ArrowRight: 0.05 }[event.key];
            if (by === undefined) return;
            event.preventDefault();
            event.stopPropagation();
            setCompare({ at: Math.min(1, Math.max(0, index + by)) });
          }}
        >
          ⋮
        </div>
      )}
    </div>
  );
}
