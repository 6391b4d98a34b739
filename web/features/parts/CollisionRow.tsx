'use client';

import { SHAPE_WORDS } from '@kinkajou/core/edits/editParts';
import {
  COLLISION_RANGES,
  COLLISION_USUAL,
  COLLISIONS,
  type Collision,
  type CollisionShape,
} from '@kinkajou/core/scene/partChange';
import { useState } from 'react';
import { Button } from '@/ui/Button';
import { ChipSelect } from '@/ui/Chip';
import { Field } from '@/ui/Field';

/**
 * Which shape for collision, and how closely it follows; what is given is drawn over the part, so that it is
 * tried by giving it.
 */
export function CollisionRow({
  first,
  give,
  close,
}: {
  first: Collision | null;
  give(collision: Collision): void;
  close(): void;
}) {
  const [shape, setShape] = useState<CollisionShape>(first?.shape ?? 'hulls');
  const [hulls, setHulls] = useState<number>(first?.hulls ?? COLLISION_USUAL.hulls);
  const [error, setError] = useState<number>(first?.error ?? COLLISION_USUAL.error);
  const [keep, setKeep] = useState<number>(first?.keep ?? COLLISION_USUAL.keep);
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        give({ shape, ...(shape === 'hulls' && { hulls, error }), ...(shape === 'mesh' && { keep }) });
      }}
      onKeyDown={(event) => event.key === 'Escape' && close()}
    >
      <ChipSelect
        autoFocus
        aria-label="Shape for collision"
        value={shape}
        onChange={(event) => setShape(event.target.value as CollisionShape)}
      >
        {COLLISIONS.map((one) => (
          <option key={one} value={one}>
            {SHAPE_WORDS[one]}
          </option>
        ))}
      </ChipSelect>
      {shape === 'hulls' && (
        <NumberBox label="at most" value={hulls} range={COLLISION_RANGES.hulls} step={1} set={setHulls} />
      )}
      {shape === 'hulls' && (
        <PercentBox label="a cut must spare" value={error} range={COLLISION_RANGES.error} set={setError} />
      )}
      {shape === 'mesh' && (
        <PercentBox label="of its triangles" value={keep} range={COLLISION_RANGES.keep} set={setKeep} />
      )}
      <Button type="submit" main>
        {shape === 'none' ? 'Take it off' : 'Give it'}
      </Button>
    </form>
  );
}

interface BoxProps {
  label: string;
  value: number;
  range: readonly [number, number];
  set(value: number): void;
}

function PercentBox({ label, value, range: [least, most], set }: BoxProps) {
  return (
    <NumberBox
      label={`${label}, %`}
      value={Number((value * 100).toPrecision(6))}
      range={[least * 100, most * 100]}
      step="any"
      set={(percent) => set(percent / 100)}
    />
  );
}

/** What is half typed stays as it is typed; the browser holds it against the range when it is sent. */
function NumberBox({ label, value, range: [least, most], step, set }: BoxProps & { step: number | 'any' }) {
  const [text, setText] = useState(String(value));
  return (
    <label className="flex items-center gap-1.5">
      {label}
      <Field
        type="number"
        required
        className="w-20 font-mono"
        min={least}
        max={most}
        step={step}
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          if (event.target.value !== '') set(Number(event.target.value));
        }}
        aria-label={label}
      />
    </label>
  );
}
