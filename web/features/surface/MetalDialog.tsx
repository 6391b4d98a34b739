'use client';

import { convertColour } from '@kinkajou/core/colour/spaces';
import {
  CONDUCTOR_SOURCES,
  type Conductor,
  conductorReflectance,
  MEASURED_METALS,
  metalColour,
  metalFrom,
} from '@kinkajou/core/materials/measured';
import { useState } from 'react';
import { Button } from '@/ui/Button';
import { Field, SelectField } from '@/ui/Field';
import { Modal } from '@/ui/Modal';
import { useFocus } from '../bench/focus.ts';
import { useBench } from '../bench/useBench.ts';
import { startEdits } from './SurfaceSheet.tsx';

const BANDS = ['Red', 'Green', 'Blue'] as const;
const FIRST = 'gold';

/** A metal by its complex index at three wavelengths: one's own, or a measured one to begin with. */
export function MetalDialog({ close }: { close: () => void }) {
  const bench = useBench();
  const { selected, slot } = useFocus();
  const [name, setName] = useState(FIRST);
  const [index, setIndex] = useState<number[]>([...MEASURED_METALS[FIRST].index]);
  const slots = selected.length === 0 && slot ? [slot] : selected;
  const keys = new Set(slots.map(({ material }) => material));
  const materials = bench.view.state.materials.filter(({ key }) => keys.has(key));
  const sound =
    index.every((value) => Number.isFinite(value) && value >= 0 && value <= 100) &&
    index.some((value) => value > 0);
  const light = sound ? metalColour(index as unknown as Conductor) : null;
  const srgb =
    light &&
    convertColour(light, 'lin_rec709_scene', 'srgb_rec709_scene').map((component) =>
      Math.round(component * 255),
    );
  const source = MEASURED_METALS[name]?.source;
  return (
    <Modal title="A metal by n and k" close={close}>
      <form
        className="grid gap-3 p-4 text-[12.3px]"
        onSubmit={(event) => {
          event.preventDefault();
          if (!light || materials.length === 0) return;
          const title =
            name === '' ? 'a metal by n and k' : name.replace(/^./, (letter) => letter.toUpperCase());
          bench.apply(startEdits(materials, metalFrom('own', title, index as unknown as Conductor)));
          close();
        }}
      >
        <label className="flex items-center gap-2">
          <span className="w-24 text-[var(--soft)]">Begin with</span>
          <SelectField
            className="w-44"
            value={name}
            onChange={(event) => {
              setName(event.target.value);
              const existing = MEASURED_METALS[event.target.value];
              if (existing) setIndex([...existing.index]);
            }}
          >
            <option value="">constants of your own</option>
            {Object.keys(MEASURED_METALS).map((id) => (
              <option key={id} value={id}>
                {id}
              </option>
            ))}
          </SelectField>
        </label>
        <div className="grid grid-cols-[96px_repeat(3,96px)] items-center gap-x-2 gap-y-1.5">
          <span />
          <b>n</b>
          <b>k</b>
          <b>reflects</b>
          {BANDS.map((band, row) => (
            <BandRow
              key={band}
              band={band}
              n={index[row * 2]}
              k={index[row * 2 + 1]}
              change={(place, value) => {
                setName('');
                setIndex(index.map((cached, i) => (i === row * 2 + place ? value : cached)));
              }}
            />
          ))}
        </div>
        <div className="flex items-center gap-3">
          <span
            className="h-10 w-16 rounded border border-black/15"
            style={{ background: srgb ? `rgb(${srgb.join(' ')})` : 'none' }}
          />
          <span className="text-[var(--soft)]">
            {light && srgb ? (
              <>
                Linear Rec.709 {light.map((component) => component.toFixed(3)).join(' ')}
                <br />
                shown as sRGB {srgb.join(' ')}
              </>
            ) : (
              'n and k are numbers from 0 to 100, not all of them 0.'
            )}
          </span>
        </div>
        <p className="text-[11.8px] text-[var(--soft)]">
          {source
            ? `${CONDUCTOR_SOURCES[source].title}, at ${CONDUCTOR_SOURCES[source].wavelengths.join(', ')} nm.`
            : 'Mostly at about 650, 550 and 450 nm.'}
        </p>
        <Button
          type="submit"
          main
          className="w-fit"
          disabled={!light || materials.length === 0 || bench.busy}
        >
          Make {materials.length === 1 ? materials[0].key : `${materials.length} materials`} this metal
        </Button>
      </form>
    </Modal>
  );
}

function BandRow({
  band,
  n,
  k,
  change,
}: {
  band: string;
  n: number;
  k: number;
  change: (place: 0 | 1, value: number) => void;
}) {
  const reflects = conductorReflectance(n, k);
  return (
    <>
      <span className="text-[var(--soft)]">{band}</span>
      {([n, k] as const).map((value, index) => (
        <Field
          key={index}
          type="number"
          min={0}
          max={100}
          step="any"
          className="w-24"
          aria-label={`${'nk'[index]} in ${band.toLowerCase()}`}
          value={Number.isFinite(value) ? value : ''}
          onChange={(event) => change(index as 0 | 1, event.target.valueAsNumber)}
        />
      ))}
      <span className="font-mono">{Number.isFinite(reflects) ? `${(reflects * 100).toFixed(1)}%` : '-'}</span>
    </>
  );
}
