'use client';

import { type ReactNode, useEffect, useState } from 'react';
import { Button } from '@/ui/Button';
import { Field } from '@/ui/Field';
import { Segments } from '@/ui/Segments';
import { usePartFocus } from './partFocus.ts';
import { type Handles, type Placing, placesAnything } from './placing.ts';

const AXES = ['X', 'Y', 'Z'] as const;
const HANDLES: readonly (readonly [Handles, string])[] = [
  ['move', 'move'],
  ['turn', 'turn'],
  ['size', 'size'],
];

interface PlaceRowProps {
  placing: Placing;
  give(): void;
  close(): void;
}

/** Where the selected parts go: by handles in the view, which these numbers follow, or by the numbers. */
export function PlaceRow({ placing, give, close }: PlaceRowProps) {
  const { move, turn, scale, handles } = placing;
  const set = (next: Partial<Placing>) => usePartFocus.getState().set({ placing: { ...placing, ...next } });
  const withAxis = (values: readonly number[], axis: number, value: number) =>
    values.map((other, k) => (k === axis ? value : other)) as [number, number, number];
  return (
    <form
      className="flex flex-wrap items-center gap-x-3 gap-y-1.5"
      aria-label="Place the selected parts"
      onSubmit={(event) => {
        event.preventDefault();
        if (placesAnything(placing)) give();
      }}
      onKeyDown={(event) => event.key === 'Escape' && close()}
    >
      <Segments
        label="Handles in the view"
        options={HANDLES}
        value={handles}
        pick={(next) => set({ handles: next })}
      />
      <Numbers label="by, m">
        {AXES.map((axis, k) => (
          <NumberField
            key={axis}
            first={k === 0}
            label={`Move along ${axis}, m`}
            mark={axis}
            value={move[k]}
            give={(value) => set({ move: withAxis(move, k, value) })}
          />
        ))}
      </Numbers>
      <Numbers label="turned, °">
        {AXES.map((axis, k) => (
          <NumberField
            key={axis}
            label={`Turn about ${axis}, °`}
            mark={axis}
            value={turn[k]}
            give={(value) => set({ turn: withAxis(turn, k, value) })}
          />
        ))}
      </Numbers>
      <Numbers label="times its size">
        <NumberField
          label="Times its size"
          value={scale}
          least={0.001}
          give={(value) => value > 0 && set({ scale: value })}
        />
      </Numbers>
      <Button type="submit" main disabled={!placesAnything(placing)}>
        Place
      </Button>
      <Button type="button" onClick={close}>
        Leave
      </Button>
    </form>
  );
}

function Numbers({ label, children }: { label: string; children: ReactNode }) {
  return (
    <span className="flex items-center gap-1">
      <span className="text-[var(--soft)]">{label}</span>
      {children}
    </span>
  );
}

interface NumberFieldProps {
  label: string;
  /** Stands before the number. */
  mark?: string;
  value: number;
  least?: number;
  first?: boolean;
  give(value: number): void;
}

/** A number that is typed; what is half typed stays as it is, what is moved by a handle is shown. */
function NumberField({ label, mark, value, least, first = false, give }: NumberFieldProps) {
  const [text, setText] = useState(String(value));
  useEffect(() => setText((typed) => (Number(typed) === value ? typed : String(value))), [value]);
  return (
    <span className="flex items-center gap-1">
      {mark && <span className="font-mono text-[11px] text-[var(--soft)]">{mark}</span>}
      <Field
        autoFocus={first}
        type="number"
        step="any"
        min={least}
        className="w-[68px] font-mono [appearance:textfield]"
        value={text}
        aria-label={label}
        onFocus={(event) => event.currentTarget.select()}
        onChange={(event) => {
          setText(event.target.value);
          const number = Number(event.target.value);
          if (event.target.value !== '' && Number.isFinite(number)) give(number);
        }}
      />
    </span>
  );
}
