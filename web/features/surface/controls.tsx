'use client';

import { type ReactNode, useEffect, useState } from 'react';
import { Field } from '@/ui/Field';

interface SliderRowProps {
  title: string;
  value: number;
  range: readonly [number, number];
  /** What stands behind the number: a unit, or what the number comes to. */
  unit?: string;
  step?: number;
  /** Told while the slider moves, before anything is taken. */
  onMove?: (value: number) => void;
  commit: (value: number) => void;
}

/** A number from a range; taken when the slider is let go, or on Enter in the field. */
export function SliderRow({ title, value, range, unit = '', step = 0.005, onMove, commit }: SliderRowProps) {
  const [shown, setShown] = useState(value);
  useEffect(() => setShown(value), [value]);
  const move = (next: number) => {
    setShown(next);
    onMove?.(next);
  };
  const take = (next: number) => {
    const rounded = Number(next.toPrecision(6));
    if (Number.isFinite(rounded) && Math.abs(rounded - value) > step / 10) commit(rounded);
    else setShown(value);
  };
  return (
    <label className="flex min-w-0 items-center gap-2">
      <span className="w-[76px] shrink-0 text-[var(--soft)]">{title}</span>
      <input
        type="range"
        className="range range-xs min-w-0 flex-1"
        aria-label={title}
        min={range[0]}
        max={range[1]}
        step={step}
        value={Math.min(range[1], Math.max(range[0], shown))}
        onChange={(event) => move(Number(event.target.value))}
        onPointerUp={() => take(shown)}
        onKeyUp={(event) => event.key.startsWith('Arrow') && take(shown)}
      />
      <NumberField title={title} shown={shown} move={move} take={take} />
      <span className="narrow w-[52px] shrink-0 truncate text-[11px] text-[var(--soft)]" title={unit}>
        {unit}
      </span>
    </label>
  );
}

function NumberField({
  title,
  shown,
  move,
  take,
}: {
  title: string;
  shown: number;
  move: (value: number) => void;
  take: (value: number) => void;
}) {
  return (
    <Field
      className="w-12 shrink-0 font-mono text-[11.5px]"
      aria-label={`${title} as a number`}
      value={String(Math.round(shown * 1000) / 1000)}
      onChange={(event) => Number.isFinite(Number(event.target.value)) && move(Number(event.target.value))}
      onBlur={() => take(shown)}
      onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
    />
  );
}

interface ColourRowProps {
  title: string;
  value: readonly [number, number, number];
  map: boolean;
  /** Takes the whole width, where more than the colour stands in the row. */
  wide?: boolean;
  commit: (value: [number, number, number]) => void;
  children?: ReactNode;
}

/** A linear colour as three numbers beside a swatch. */
export function ColourRow({ title, value, map, wide = false, commit, children }: ColourRowProps) {
  const text = value.map((component) => String(Math.round(component * 1000) / 1000)).join(' ');
  const [shown, setShown] = useState(text);
  useEffect(() => setShown(text), [text]);
  const take = () => {
    const numbers = shown
      .split(/[\s,;]+/)
      .filter(Boolean)
      .map(Number);
    if (
      shown === text ||
      numbers.length === 0 ||
      numbers.some((number) => !Number.isFinite(number) || number < 0)
    )
      return setShown(text);
    commit([numbers[0], numbers[1] ?? numbers[0], numbers[2] ?? numbers[0]]);
  };
  return (
    <div className={`flex min-w-0 items-center gap-2 ${wide ? 'col-span-2' : ''}`}>
      <span className="w-[76px] shrink-0 text-[var(--soft)]">{title}</span>
      <span
        className="size-5 shrink-0 rounded border border-black/20"
        style={{ background: cssColour(value) }}
      />
      <Field
        className="min-w-0 flex-1 font-mono text-[11.5px]"
        aria-label={title}
        title="Linear r g b; Enter takes it"
        value={shown}
        onChange={(event) => setShown(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur();
          if (event.key === 'Escape') setShown(text);
        }}
      />
      {children}
      <span className="narrow w-[34px] shrink-0 text-[11px] text-[var(--soft)]">{map ? '× map' : ''}</span>
    </div>
  );
}

function cssColour(value: readonly number[]): string {
  const encode = (x: number) =>
    Math.round(255 * Math.min(1, Math.max(0, x <= 0.0031308 ? x * 12.92 : 1.055 * x ** (1 / 2.4) - 0.055)));
  return `rgb(${value.map(encode).join(' ')})`;
}
