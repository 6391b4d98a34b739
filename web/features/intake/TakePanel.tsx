'use client';

import { type IntakeChoice, intakeSize, LENGTH_UNITS, TAKE_ALL, takesAll } from '@kinkajou/core/scene/intake';
import { TAKE_PARTS, type TakePart } from '@kinkajou/core/scene/take';
import { useEffect, useState } from 'react';
import { Button } from '@/ui/Button';
import { Field, SelectField } from '@/ui/Field';
import { count } from '@/ui/format';
import { useBench } from '../bench/useBench.ts';
import { SizeFigure } from './SizeFigure.tsx';

const TITLES: Record<TakePart, string> = {
  meshes: 'Meshes',
  materials: 'Materials',
  cameras: 'Cameras',
  lights: 'Lights',
  clips: 'Clips',
  skins: 'Skins',
  shapes: 'Morph targets',
};
const AXES = ['X', 'Y', 'Z'] as const;

/**
 * Chooses what is taken from the model, and how its axes, unit and size are understood, with the size before
 * and after.
 */
export function TakePanel() {
  const bench = useBench();
  const { source, state } = bench.view;
  const [choice, setChoice] = useState<IntakeChoice>(state.intake);
  useEffect(() => setChoice(state.intake), [state.intake]);
  const change = (part: Partial<IntakeChoice>) => setChoice((before) => ({ ...before, ...part }));
  const changed = JSON.stringify(choice) !== JSON.stringify(state.intake);
  const sound =
    choice.scale > 0 &&
    choice.rotation.every(Number.isFinite) &&
    (choice.metresPerUnit === null || choice.metresPerUnit > 0);
  const counts: Partial<Record<TakePart, number>> = source.counts;
  const apply = (next: IntakeChoice) =>
    bench.apply([{ kind: 'setIntake', choice: next, origin: { from: 'hand', detail: 'chosen at intake' } }]);
  const before = source.bounds && intakeSize(source.bounds, source.upAxis, source.metresPerUnit);
  const after =
    source.bounds && sound ? intakeSize(source.bounds, source.upAxis, source.metresPerUnit, choice) : null;
  return (
    <form
      className="grid grid-cols-[minmax(0,1fr)_220px] gap-4 border-y border-[var(--line)] bg-base-200 p-4"
      aria-label="What to take"
      onSubmit={(event) => {
        event.preventDefault();
        if (changed && sound) apply(choice);
      }}
    >
      <div className="grid min-w-0 auto-rows-min gap-3 text-[12.3px]">
        <fieldset className="grid grid-cols-2 gap-x-4 gap-y-1">
          <legend className="mb-1 text-[13px] font-semibold">Take</legend>
          {TAKE_PARTS.map((part) => (
            <label key={part} className="flex cursor-pointer items-center gap-2">
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={choice.parts.includes(part)}
                onChange={() =>
                  change({
                    parts: TAKE_PARTS.filter((other) =>
                      other === part ? !choice.parts.includes(part) : choice.parts.includes(other),
                    ),
                  })
                }
              />
              {TITLES[part]}
              {counts[part] !== undefined && (
                <span className="text-[var(--soft)]">{count(counts[part] ?? 0)}</span>
              )}
            </label>
          ))}
        </fieldset>
        <div className="grid grid-cols-[88px_minmax(0,1fr)] items-center gap-x-2 gap-y-1.5">
          <label htmlFor="take-up">Up axis</label>
          <SelectField
            id="take-up"
            className="w-44"
            value={choice.up ?? ''}
            onChange={(event) => change({ up: (event.target.value || null) as IntakeChoice['up'] })}
          >
            <option value="">as stated ({source.upAxis})</option>
            {AXES.map((axis) => (
              <option key={axis} value={axis}>
                {axis}
              </option>
            ))}
          </SelectField>
          <label htmlFor="take-unit">Unit</label>
          <SelectField
            id="take-unit"
            className="w-44"
            value={choice.metresPerUnit ?? ''}
            onChange={(event) =>
              change({ metresPerUnit: event.target.value === '' ? null : Number(event.target.value) })
            }
          >
            <option value="">as stated ({source.metresPerUnit} m)</option>
            {LENGTH_UNITS.map(([title, metres]) => (
              <option key={title} value={metres}>
                {title}
              </option>
            ))}
          </SelectField>
          <span id="take-turn">Turn, degrees</span>
          <span className="flex gap-1">
            {AXES.map((axis, i) => (
              <Field
                key={axis}
                type="number"
                step={90}
                className="w-16"
                aria-label={`Turn about ${axis}`}
                value={Number.isFinite(choice.rotation[i]) ? choice.rotation[i] : ''}
                onChange={(event) =>
                  change({
                    rotation: choice.rotation.map((angle, k) =>
                      k === i ? event.target.valueAsNumber : angle,
                    ) as IntakeChoice['rotation'],
                  })
                }
              />
            ))}
          </span>
          <label htmlFor="take-scale">Size, times</label>
          <Field
            id="take-scale"
            type="number"
            min={0}
            step="any"
            className="w-24"
            value={Number.isFinite(choice.scale) ? choice.scale : ''}
            onChange={(event) => change({ scale: event.target.valueAsNumber })}
          />
        </div>
        <div className="flex items-center gap-2">
          <Button type="submit" main disabled={!changed || !sound || bench.busy}>
            Take it so
          </Button>
          <Button
            disabled={(takesAll(state.intake) && !changed) || bench.busy}
            onClick={() => (takesAll(state.intake) ? setChoice(TAKE_ALL) : apply(TAKE_ALL))}
          >
            As stated
          </Button>
        </div>
      </div>
      <SizeFigure before={before} after={after} />
      {source.generator && (
        <p className="col-span-2 truncate text-[11.5px] text-[var(--soft)]" title={source.generator}>
          Remembered for files by “{source.generator}”.
        </p>
      )}
    </form>
  );
}
