'use client';

import { DEPTHS, type Destination, MAP_TYPES, type MapType } from '@kinkajou/core/destinations/profile';
import { useState } from 'react';
import type { DestinationEntry } from '@/server/services/destinations';
import { Chip, ChipSelect } from '@/ui/Chip';
import { useChoices } from '@/ui/choices';
import { plural } from '@/ui/format';
import { Segments } from '@/ui/Segments';
import { useStage } from '../viewport/stage.ts';
import { useTurning } from '../viewport/turning.ts';

const VARIANT_TITLES: Record<string, string> = { glb: 'GLB', gltf: 'glTF + maps' };
const UNITS: [number, string][] = [
  [1, 'metres'],
  [0.1, 'decimetres'],
  [0.01, 'centimetres'],
  [0.001, 'millimetres'],
  [0.0254, 'inches'],
  [0.3048, 'feet'],
];

/** Which destination, and what it leaves open. */
export function DestinationSelect({
  destinations,
  current,
}: {
  destinations: readonly DestinationEntry[];
  current: Destination;
}) {
  const { variants, set } = useChoices();
  const variant = current.variants.find((one) => one === variants[current.id]) ?? current.variants[0];
  const options = (own: boolean) =>
    destinations
      .filter((one) => one.own === own)
      .map(({ profile: { id, title } }) => (
        <option key={id} value={id}>
          {title}
        </option>
      ));
  const own = options(true);
  return (
    <>
      <ChipSelect
        aria-label="Destination"
        value={current.id}
        onChange={(event) => set({ destination: event.target.value })}
      >
        {own.length > 0 ? (
          <>
            <optgroup label="Built in">{options(false)}</optgroup>
            <optgroup label="Own">{own}</optgroup>
          </>
        ) : (
          options(false)
        )}
      </ChipSelect>
      {current.variants.length > 1 && (
        <Segments
          label="File layout"
          options={current.variants.map((one) => [one, VARIANT_TITLES[one] ?? one.toUpperCase()] as const)}
          value={variant}
          pick={(one) => set({ variants: { ...variants, [current.id]: one } })}
        />
      )}
    </>
  );
}

/** Size, unit and type of images, where the destination leaves them to the person. */
export function ChoicesRow({ destination }: { destination: Destination }) {
  const { settled, stageAlong, set } = useChoices();
  const folded = useStage(({ stage }) => stage === null);
  const turning = useTurning(({ seconds }) => seconds);
  const { choices, id, maps } = destination;
  const own = settled[id] ?? {};
  const change = (part: typeof own) => set({ settled: { ...settled, [id]: { ...own, ...part } } });
  const types = MAP_TYPES.filter((type) => maps.some(({ depth }) => DEPTHS[type].includes(depth)));
  const unit = own.metresPerUnit ?? destination.metresPerUnit;
  return (
    <fieldset
      className="mb-3 flex flex-wrap items-center gap-x-4 gap-y-2 rounded-md border border-[var(--line)] bg-base-100 px-3 py-2 text-[12.3px]"
      aria-label="Left to you"
    >
      {choices.includes('size') && (
        <SizeField key={id} value={own.size ?? destination.size} change={(size) => change({ size })} />
      )}
      {choices.includes('unit') && (
        <label className="flex items-center gap-1.5">
          Unit
          <ChipSelect
            value={unit}
            onChange={(event) => change({ metresPerUnit: Number(event.target.value) })}
          >
            {UNITS.map(([metres, title]) => (
              <option key={metres} value={metres}>
                {title}
              </option>
            ))}
            {!UNITS.some(([metres]) => metres === unit) && <option value={unit}>{unit} m</option>}
          </ChipSelect>
        </label>
      )}
      {choices.includes('type') && (
        <label className="flex items-center gap-1.5">
          Images as
          <ChipSelect
            value={own.type ?? maps[0]?.type}
            onChange={(event) => change({ type: event.target.value as MapType })}
          >
            {types.map((type) => (
              <option key={type} value={type}>
                {type.toUpperCase()}
              </option>
            ))}
          </ChipSelect>
        </label>
      )}
      <label
        className="flex items-center gap-1.5"
        title="The whole turns about the middle of its bottom; formats without motion leave it out and say so"
      >
        Turn
        <ChipSelect value={own.turn ?? 0} onChange={(event) => change({ turn: Number(event.target.value) })}>
          {TURNS.map((seconds) => (
            <option key={seconds} value={seconds}>
              {seconds === 0 ? 'none' : `once in ${seconds} s`}
            </option>
          ))}
        </ChipSelect>
      </label>
      {!!own.turn && !folded && (
        <Chip
          aria-pressed={turning > 0}
          onClick={() => useTurning.setState({ seconds: turning > 0 ? 0 : own.turn })}
        >
          play it in the view
        </Chip>
      )}
      <label
        className="flex items-center gap-1.5"
        title="As the view has them; formats without cameras, lamps or environments leave them out and say so"
      >
        Of the view
        <ChipSelect
          value={stageAlong}
          onChange={(event) => set({ stageAlong: event.target.value as typeof stageAlong })}
        >
          <option value="none">nothing</option>
          <option value="camera">the camera</option>
          <option value="all">camera, lamps, environment</option>
        </ChipSelect>
        {stageAlong !== 'none' && folded && <span className="text-error">unfold the view for that</span>}
      </label>
    </fieldset>
  );
}

/** Seconds of one turn. */
const TURNS = [0, 4, 8, 12, 20];

function SizeField({ value, change }: { value: number; change: (size: number) => void }) {
  const [text, setText] = useState(String(value));
  const number = Number(text);
  const sound = text.trim() !== '' && number >= 0 && number <= 1e6;
  return (
    <label className="flex items-center gap-1.5">
      Longest side
      <input
        className={`w-20 rounded border bg-base-100 px-2 py-0.5 text-right font-mono text-[11.5px] ${sound ? 'border-[var(--line)]' : 'border-error'}`}
        inputMode="decimal"
        aria-label="Longest side in metres"
        aria-invalid={!sound}
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          const next = Number(event.target.value);
          if (event.target.value.trim() !== '' && next >= 0 && next <= 1e6) change(next);
        }}
      />
      m <span className="text-[var(--soft)]">{number === 0 ? 'as it is' : 'scaled to fit'}</span>
    </label>
  );
}

/** Further destinations that get a package in the same go. */
export function AlsoTo({
  destinations,
  current,
}: {
  destinations: readonly DestinationEntry[];
  current: string;
}) {
  const { alsoTo, set } = useChoices();
  const others = destinations.filter(({ profile }) => profile.id !== current);
  const chosen = others.filter(({ profile }) => alsoTo.includes(profile.id));
  return (
    <details className="mb-3 rounded-md border border-[var(--line)] bg-base-100 px-3 py-1.5 text-[12.3px]">
      <summary className="cursor-pointer">
        In the same go:{' '}
        {chosen.length === 0 ? (
          <span className="text-[var(--soft)]">this destination alone</span>
        ) : (
          plural(chosen.length, 'further destination')
        )}
      </summary>
      <div className="grid grid-cols-2 gap-x-4 gap-y-1 py-2">
        {others.map(({ profile: { id, title } }) => (
          <label key={id} className="flex items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={alsoTo.includes(id)}
              onChange={(event) =>
                set({ alsoTo: event.target.checked ? [...alsoTo, id] : alsoTo.filter((one) => one !== id) })
              }
            />
            {title}
          </label>
        ))}
      </div>
    </details>
  );
}
